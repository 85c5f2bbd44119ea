-- When a local value was last kept; null where it was kept before this was noted.
alter table local_values add column kept_at timestamptz;
