-- Settings of the server itself, and the phones and panels that have joined over the local network.
create table server_settings (
  key text primary key,
  value jsonb not null
);

create table peers (
  id uuid primary key,
  name text not null,
  -- SHA-256 of the session's token: who reads the data folder cannot join with it.
  token_hash text not null unique,
  rights text not null check (rights in ('read', 'write')),
  joined_at timestamptz not null,
  seen_at timestamptz not null
);
