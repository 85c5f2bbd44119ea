-- Values of several tags under a name, as panels store them.
create table stored_sets (
  id uuid primary key,
  list text not null,
  name text not null,
  at timestamptz not null,
  done_by text not null,
  set_values jsonb not null
);
create unique index stored_sets_name on stored_sets (lower(list), lower(name));
