-- Names of a tag's values, from an enumeration; and what the controller's program sets it to at its start.
alter table tags add column value_names jsonb not null default '[]';
alter table tags add column initial_value text not null default '';

-- The version of the controller's program that a list was from.
alter table list_versions add column program_version text not null default '';

-- Tags and scales that came by thousands, as the rows of their list in JSON, compressed, in base64: one row instead of one
-- each. What is changed or removed afterwards has its own row, or none, and is named in `unpacked`.
create table packs (
  id uuid primary key,
  -- False while the change that brought it is undone.
  is_live boolean not null,
  packed text not null
);
alter table packs alter column packed set storage external;
create table unpacked (
  pack_id uuid not null references packs (id) on delete cascade,
  kind text not null,
  id uuid not null,
  primary key (kind, id)
);
create index unpacked_by_pack on unpacked (pack_id);
-- A version of a list whose tags were all new lies in their pack.
alter table list_versions add column pack_id uuid references packs (id);
create index list_versions_by_pack on list_versions (pack_id);
alter table change_log add column pack_id uuid references packs (id) on delete set null;

-- What these refer to may lie in a pack; the working model sees to it that it is there.
alter table scales drop constraint scales_id_fkey;
alter table elements drop constraint elements_tag_id_fkey;
