-- Each proof record names the hash of the one before it, and is signed with the key of the data folder. Null: not sealed yet.
alter table proofs add column after_hash text;
alter table proofs add column signature text;
