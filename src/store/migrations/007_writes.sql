-- What was sent for a value that was asked for: they differ where the nearest that can be held was taken.
alter table write_log add column sent jsonb;
update write_log set sent = asked;
alter table write_log alter column sent set not null;
