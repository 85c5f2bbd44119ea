-- People who sign in at panels. Their PINs are kept apart, and never leave: salted and hashed.
create table operators (
  id uuid primary key,
  name text not null,
  level integer not null
);
create table operator_pins (
  operator_id uuid primary key,
  salt text not null,
  hash text not null
);
alter table pages add column level integer not null default 0;
alter table panels add column sign_out_minutes integer not null default 5;
-- Who was signed in at the panel; who had opened the device for writing is beside it.
alter table write_log add column done_by text not null default '';
