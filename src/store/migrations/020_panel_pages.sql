-- Panels have a size, pages a grid of pixels, elements a free place and settings of their kind; state lists are shared.
create table state_lists (
  id uuid primary key,
  name text not null,
  states jsonb not null
);
alter table panels add column width integer not null default 1280;
alter table panels add column height integer not null default 800;
alter table panels add column diagonal double precision not null default 10.1;
alter table panels add column theme text not null default 'browser';
alter table panels add column start_page_id uuid;
alter table panels add column has_bar boolean not null default true;
alter table pages add column snap text not null default 'grid';
alter table pages add column pitch integer not null default 8;
alter table elements add column z integer not null default 0;
alter table elements add column group_id text not null default '';
alter table elements add column is_locked boolean not null default false;
alter table elements add column phone jsonb not null default '{"place": null, "width": "auto"}';

-- Twelve columns of 105 pixels and rows of 54, with 8 between them.
update elements set
  x = 10 + x * 105, y = 8 + y * 54, w = w * 105 - 8, h = h * 54 - 8,
  kind = case kind when 'number' then 'value' else kind end,
  settings = (
    case when coalesce(settings->>'onText', settings->>'offText', '') <> '' and kind in ('lamp', 'button') then jsonb_build_object('states', jsonb_build_array(
      jsonb_build_object('at', 1, 'to', null, 'text', coalesce(nullif(settings->>'onText', ''), 'on'), 'look', 'on', 'symbol', null),
      jsonb_build_object('at', 0, 'to', null, 'text', coalesce(nullif(settings->>'offText', ''), 'off'), 'look', 'off', 'symbol', null)))
    else '{}'::jsonb end
    || case when kind = 'button' then jsonb_build_object('actions', jsonb_build_array(jsonb_build_object(
      'pageId', null, 'value', coalesce(settings->>'value', ''), 'tagId', null, 'act', coalesce(settings->>'action', 'toggle'))))
    else '{}'::jsonb end
    || case when kind = 'bar' then jsonb_strip_nulls(jsonb_build_object('low', settings->'low', 'high', settings->'high')) else '{}'::jsonb end
    || case when kind in ('number', 'bar', 'entry') and coalesce(settings->>'unit', '') <> '' then jsonb_build_object('unit', settings->>'unit')
    else '{}'::jsonb end
  );
-- Nothing that stood on a page comes to lie below its end.
update panels set height = least(4000, greatest(height, 48 + coalesce(
  (select max(e.y + e.h) from elements e join pages p on p.id = e.page_id where p.panel_id = panels.id), 0)));
