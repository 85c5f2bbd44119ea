-- Alarms, how each stands, and what became of them.
create table alarms (
  id uuid primary key,
  tag_id uuid,
  settings jsonb not null,
  priority text not null,
  group_name text not null,
  advice text not null,
  on_delay_ms integer not null,
  off_delay_ms integer not null,
  needs_ack boolean not null,
  is_latched boolean not null,
  is_on boolean not null,
  ack_tag_id uuid
);
create table alarm_standings (
  alarm_id uuid primary key,
  standing jsonb not null
);
create table alarm_events (
  seq bigint generated always as identity primary key,
  at timestamptz not null,
  alarm_id uuid not null,
  kind text not null,
  text text not null,
  priority text not null,
  group_name text not null,
  done_by text not null,
  note text not null
);
create index alarm_events_at on alarm_events (at desc);
