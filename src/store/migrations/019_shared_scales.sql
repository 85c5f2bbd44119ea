-- Scales that many tags go by; ranges and limits of tags; units that a panel shows instead of those of its tags.
create table shared_scales (
  id uuid primary key,
  name text not null,
  scale jsonb not null,
  unit text not null,
  decimals integer
);
alter table scales add column shared_id uuid references shared_scales (id) deferrable initially deferred;
alter table tags add column raw_range jsonb;
alter table tags add column display_range jsonb;
alter table tags add column limits jsonb;
alter table panels add column units jsonb not null default '[]';
