-- Every step of a check is a record of one chain, its proofs among them. `body` is null for what was signed before there was more to say.
alter table proofs rename to trail;
alter index proofs_by_tag rename to trail_by_tag;
update tallies set name = 'trail' where name = 'proofs';
alter table trail add column kind text not null default 'proof' check (kind in ('proof', 'step'));
alter table trail alter column kind drop default;
alter table trail add column outcome text check (outcome in ('proven', 'consistent', 'failed', 'waived'));
update trail set outcome = case when agrees then 'proven' else 'failed' end;
alter table trail drop column agrees;
alter table trail add column run_id uuid;
alter table trail add column body jsonb;
alter table trail alter column tag_id drop not null;
alter table trail alter column digest drop not null;
alter table trail alter column witness drop not null;
alter table trail alter column seen drop not null;
create index trail_by_run on trail (run_id, seq) where run_id is not null;

-- What is to be checked in one go. What became of each tag is in the trail.
create table check_runs (
  id uuid primary key,
  name text not null,
  who text not null,
  witness text not null,
  how text not null,
  tag_ids uuid[] not null,
  begun_at timestamptz not null,
  ended_at timestamptz
);

-- A phone may look in runs of checks without writing to machines.
alter table peers drop constraint peers_rights_check;
alter table peers add constraint peers_rights_check check (rights in ('read', 'check', 'write'));
