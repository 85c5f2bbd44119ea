import type { Element, Page, Panel } from '@/core/project/entities.ts';
import type { ElementSettings } from '@/core/panel/element.ts';
import { text, type Aggregate } from './aggregate.ts';

export const panels: Aggregate<Panel> = {
  load: 'select id, name from panels',
  fromRow: (row) => ({ id: text(row.id), name: text(row.name) }),
  put: (p) => ({ sql: 'insert into panels (id, name) values ($1, $2) on conflict (id) do update set name = excluded.name', params: [p.id, p.name] }),
  remove: (id) => ({ sql: 'delete from panels where id = $1', params: [id] }),
};

export const pages: Aggregate<Page> = {
  load: 'select id, panel_id, name, position from pages',
  fromRow: (row) => ({ id: text(row.id), panelId: text(row.panel_id), name: text(row.name), position: Number(row.position) }),
  put: (p) => ({
    sql: `insert into pages (id, panel_id, name, position) values ($1, $2, $3, $4)
          on conflict (id) do update set panel_id = excluded.panel_id, name = excluded.name, position = excluded.position`,
    params: [p.id, p.panelId, p.name, p.position],
  }),
  remove: (id) => ({ sql: 'delete from pages where id = $1', params: [id] }),
};

export const elements: Aggregate<Element> = {
  load: 'select id, page_id, kind, tag_id, label, x, y, w, h, settings from elements',
  fromRow: (row) => ({
    id: text(row.id),
    pageId: text(row.page_id),
    kind: text(row.kind) as Element['kind'],
    tagId: row.tag_id === null ? null : text(row.tag_id),
    label: text(row.label),
    x: Number(row.x),
    y: Number(row.y),
    w: Number(row.w),
    h: Number(row.h),
    settings: row.settings as ElementSettings,
  }),
  put: (e) => ({
    sql: `insert into elements (id, page_id, kind, tag_id, label, x, y, w, h, settings) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
          on conflict (id) do update set page_id = excluded.page_id, kind = excluded.kind, tag_id = excluded.tag_id, label = excluded.label,
            x = excluded.x, y = excluded.y, w = excluded.w, h = excluded.h, settings = excluded.settings`,
    params: [e.id, e.pageId, e.kind, e.tagId, e.label, e.x, e.y, e.w, e.h, e.settings],
  }),
  remove: (id) => ({ sql: 'delete from elements where id = $1', params: [id] }),
};
