-- Panel hosts that this bench is paired with. The key lies with the secrets.
create table panel_hosts (
  id uuid primary key,
  name text not null,
  address text not null,
  bench_id uuid not null,
  key_id uuid not null,
  paired_at timestamptz not null,
  panel_id uuid,
  sent_at timestamptz,
  log_seq bigint not null default 0
);
-- The panel host at which it was written; empty for here.
alter table write_log add column host text not null default '';
