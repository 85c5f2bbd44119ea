-- What people did beside changing the project: unlocking, joining, entering what they saw, restoring. Only ever added to.
create table audit (
  seq bigint generated always as identity primary key,
  at timestamptz not null,
  kind text not null,
  who text not null,
  detail text not null
);
