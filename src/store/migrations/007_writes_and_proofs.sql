-- What was sent for a value that was asked for: they differ where the nearest that can be held was taken.
alter table write_log add column sent jsonb;
update write_log set sent = asked;
alter table write_log alter column sent set not null;

-- The installation in which a proof was recorded; null for this one.
alter table proofs add column made_in text;
