-- Devices are simulated one by one, inside the engine: a link leads where it leads.
alter table devices add column is_simulated boolean not null default false;
update devices set is_simulated = true, witness_url = '' from links where links.id = devices.link_id and links.real_way is not null;
update links set driver = real_way ->> 'driver', settings = real_way -> 'settings' where real_way is not null;
alter table links drop column real_way;
-- What simulated tags do.
create table simulations (
  id uuid primary key,
  behaviour jsonb not null,
  run_tag_id uuid
);
