-- One page for many like things.
create table subject_lists (
  id uuid primary key,
  name text not null,
  subjects jsonb not null,
  tag_id uuid
);
alter table pages add column subject_list_id uuid;
alter table pages add column absent text not null default 'hide';
