-- The texts of panels in other languages.
create table translations (
  id uuid primary key,
  language text not null,
  source text not null,
  text text not null
);
alter table panels add column languages jsonb not null default '[]';
