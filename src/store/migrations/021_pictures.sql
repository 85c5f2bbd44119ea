-- Pictures that pages show. Their bytes lie apart, by their digest: a picture that comes twice is kept once, and undo finds it again.
create table pictures (
  id uuid primary key,
  name text not null,
  type text not null,
  width integer not null,
  height integer not null,
  digest text not null,
  size integer not null
);
create table picture_data (
  digest text primary key,
  type text not null,
  at timestamptz not null default now(),
  data bytea not null
);
alter table picture_data alter column data set storage external;
