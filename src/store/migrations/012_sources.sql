-- Groups are things of their own, in a tree; what a tag's value comes from is one value.
create table groups (
  id uuid primary key,
  name text not null,
  parent_id uuid references groups (id) deferrable initially deferred,
  device_id uuid references devices (id) deferrable initially deferred,
  period_ms integer,
  access text,
  prefix text not null,
  witness_url text
);

-- The group that stands for a text such as `Zone 1/Bed` of a device: a UUID of version 3 (RFC 9562, 5.3), its namespace the device.
create function earlier_group(device uuid, path text) returns uuid language sql immutable as $$
  select (substr(hash, 1, 12) || '3' || substr(hash, 14, 3) || substr('89ab', (('x' || substr(hash, 17, 1))::bit(4)::int & 3) + 1, 1) || substr(hash, 18))::uuid
  from (select md5(decode(replace(device::text, '-', ''), 'hex') || convert_to(path, 'UTF8')) as hash) hashed
$$;

create temporary table tag_groups on commit drop as
  select tags.id as tag_id, tags.device_id, array_agg(btrim(part) order by place) as parts
  from tags, regexp_split_to_table(tags.group_name, '/') with ordinality as split (part, place)
  where btrim(part) <> ''
  group by tags.id, tags.device_id;

insert into groups (id, name, parent_id, device_id, prefix)
  select distinct
    earlier_group(device_id, array_to_string(parts[1:depth], '/')),
    parts[depth],
    case when depth > 1 then earlier_group(device_id, array_to_string(parts[1:depth - 1], '/')) end,
    device_id,
    ''
  from tag_groups, generate_series(1, array_length(parts, 1)) as depth;

alter table tags add column group_id uuid references groups (id) deferrable initially deferred;
alter table tags add column source jsonb;
update tags set group_id = earlier_group(tag_groups.device_id, array_to_string(parts, '/')) from tag_groups where tag_id = tags.id;
update tags set source = jsonb_build_object(
  'kind', 'point', 'deviceId', device_id, 'address', address, 'order', byte_order, 'periodMs', period_ms, 'settings', '{}'::jsonb
);
set constraints all immediate;
alter table tags alter column source set not null;
alter table tags alter column access drop not null;
alter table tags drop column device_id;
alter table tags drop column group_name;
alter table tags drop column address;
alter table tags drop column byte_order;
alter table tags drop column period_ms;
alter table tags rename column source_id to list_id;
drop function earlier_group(uuid, text);

-- The name of a device begins the paths of its tags, so it is the only one in the project.
update devices set name = left(devices.name, 70) || ' (' || again.place || ')'
  from (select id, row_number() over (partition by lower(name) order by id) as place from devices) again
  where again.id = devices.id and again.place > 1;

-- Secrets of links and devices, encrypted; the project names them by their ids.
create table secrets (
  id uuid primary key,
  sealed text not null,
  at timestamptz not null default now()
);

-- What was written to local tags.
create table local_values (
  tag_id uuid primary key,
  value jsonb not null
);
