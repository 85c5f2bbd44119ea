-- What a project is made of. Ids come from the sender of a change.
create table projects (
  id uuid primary key,
  name text not null
);

create table links (
  id uuid primary key,
  name text not null,
  driver text not null,
  settings jsonb not null
);

create table devices (
  id uuid primary key,
  link_id uuid not null references links (id) deferrable initially deferred,
  name text not null,
  settings jsonb not null,
  dialect jsonb not null,
  witness_url text not null
);

create table sources (
  id uuid primary key,
  device_id uuid not null references devices (id) deferrable initially deferred,
  file_name text not null,
  imported_at text not null,
  row_count integer not null
);

create table tags (
  id uuid primary key,
  device_id uuid not null references devices (id) deferrable initially deferred,
  name text not null,
  group_name text not null,
  address text not null,
  type text not null,
  byte_order text not null,
  period_ms integer not null,
  access text not null,
  unit text not null,
  decimals integer,
  range_low double precision,
  range_high double precision,
  comment text not null,
  source_id text not null
);
create index tags_by_name on tags (lower(name));
create index tags_by_device on tags (device_id);

create table scales (
  id uuid primary key references tags (id) deferrable initially deferred,
  scale jsonb not null
);

create table panels (
  id uuid primary key,
  name text not null
);

create table pages (
  id uuid primary key,
  panel_id uuid not null references panels (id) deferrable initially deferred,
  name text not null,
  position integer not null
);

create table elements (
  id uuid primary key,
  page_id uuid not null references pages (id) deferrable initially deferred,
  kind text not null,
  tag_id uuid references tags (id) deferrable initially deferred,
  label text not null,
  x integer not null,
  y integer not null,
  w integer not null,
  h integer not null,
  settings jsonb not null
);

-- Every change with what stood before and after, so that it can be undone and redone.
create table change_log (
  seq bigint generated always as identity primary key,
  command_id uuid not null unique,
  label text not null,
  origin text not null,
  at timestamptz not null,
  changes jsonb not null,
  state text not null check (state in ('done', 'undone', 'dropped'))
);

-- Sign-offs are only ever added. The newest of a tag counts, while its digest is that of the tag's path.
create table proofs (
  seq bigint generated always as identity primary key,
  tag_id uuid not null,
  digest text not null,
  agrees boolean not null,
  witness text not null,
  who text not null,
  at timestamptz not null,
  seen jsonb not null
);
create index proofs_by_tag on proofs (tag_id, seq desc);

-- Writes to devices: added before the write is sent, completed when its outcome is known.
create table write_log (
  id uuid primary key,
  at timestamptz not null,
  tag_id uuid not null,
  tag_name text not null,
  device_name text not null,
  origin text not null,
  who text not null,
  old_value jsonb,
  asked jsonb not null,
  held jsonb,
  state text not null check (state in ('sent', 'done', 'differs', 'refused', 'unknown')),
  note text not null
);
create index write_log_by_time on write_log (at desc);
