-- What a tag is called in the list that brought it, so that the next version of the list finds it again.
alter table tags add column list_name text not null default '';
alter table tags add column is_gone boolean not null default false;
update tags set list_name = name where source_id <> '';

-- Removing a tag asks for the elements that show it.
create index elements_by_tag on elements (tag_id);

-- Tags are looked up in the working model alone; these slowed every list down.
drop index tags_by_name;
drop index tags_by_device;

-- Which version of its list a source stands at.
alter table sources add column version_id uuid;
-- How it is read and what is chosen of it.
alter table sources add column choices jsonb not null default '{}';

-- Every version of a list as it was brought in. Versions are only ever added: an import switches from one to the next.
create table list_versions (
  id uuid primary key,
  source_id uuid not null,
  at timestamptz not null,
  file_name text not null,
  origin text not null,
  row_count integer not null,
  -- JSON, compressed, in base64: tens of megabytes otherwise.
  packed text not null
);
alter table list_versions alter column packed set storage external;
create index list_versions_by_source on list_versions (source_id, at);

-- The changes of a large command, packed the same way; `changes` is then empty.
alter table change_log add column packed text;
alter table change_log alter column packed set storage external;
