-- How a write is confirmed, what a device is known by, and what shows that its program runs.
alter table tags add column confirm jsonb not null default '{"kind":"equal"}';

alter table devices add column identity_tag_id uuid;
alter table devices add column identity text not null default '';
alter table devices add column life_tag_id uuid;
alter table devices add column life_seconds integer not null default 5;
alter table devices add column own_life_tag_id uuid;

alter table write_log drop constraint write_log_state_check;
alter table write_log add constraint write_log_state_check
  check (state in ('sent', 'done', 'differs', 'refused', 'unknown', 'changedBack'));
