-- Structures of controllers' programs, blocks of them, and which tag is which member. Tags may lie packed, so nothing refers to their table.
create table structures (
  id uuid primary key,
  name text not null,
  device_id uuid not null references devices (id) deferrable initially deferred,
  members jsonb not null
);
create table blocks (
  id uuid primary key,
  name text not null,
  device_id uuid not null references devices (id) deferrable initially deferred,
  structure_id uuid not null references structures (id) deferrable initially deferred,
  address text not null
);
create table members (
  id uuid primary key,
  block_id uuid not null references blocks (id) deferrable initially deferred,
  path text not null
);
