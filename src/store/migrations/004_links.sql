-- Dialects saved under a name, to be used for other devices.
alter table projects add column dialects jsonb not null default '[]';

-- The way to the machine while a link leads to a simulation of it.
alter table links add column real_way jsonb;
