-- What a tag may be set to for a check, by whose word, and for which signal path. No part of the project: it goes into no project file.
create table drive_permissions (
  tag_id uuid primary key,
  digest text not null,
  low double precision,
  high double precision,
  moves boolean not null,
  who text not null,
  at timestamptz not null
);

-- Photos of findings, by their SHA-256, which stands in the trail. They are evidence: nothing prunes them.
create table check_photos (
  digest text primary key,
  data bytea not null,
  at timestamptz not null default now()
);
