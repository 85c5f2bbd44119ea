-- Rules that copy the value of a tag to another one, or the members of a block to those of another one.
create table copy_rules (
  id uuid primary key,
  name text not null,
  from_tag_id uuid,
  to_tag_id uuid,
  from_block_id uuid references blocks (id) deferrable initially deferred,
  to_block_id uuid references blocks (id) deferrable initially deferred,
  copied_when text not null,
  trigger_tag_id uuid,
  pause_ms integer not null,
  is_on boolean not null
);
