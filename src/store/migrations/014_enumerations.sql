-- Enumerations of controllers' programs, and which of them a tag is of.
create table enumerations (
  id uuid primary key,
  name text not null,
  device_id uuid not null references devices (id) deferrable initially deferred,
  value_names jsonb not null
);
alter table tags add column enumeration_id uuid references enumerations (id) deferrable initially deferred;
