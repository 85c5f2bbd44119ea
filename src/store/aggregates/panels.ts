import type { Element, Page, Panel } from '@/core/project/entities.ts';
import { aggregate, count, json, maybeText, text } from './aggregate.ts';

export const panels = aggregate<Panel>('panels', { id: ['id', text], name: ['name', text] });

export const pages = aggregate<Page>('pages', {
  id: ['id', text],
  panelId: ['panel_id', text],
  name: ['name', text],
  position: ['position', count],
});

export const elements = aggregate<Element>('elements', {
  id: ['id', text],
  pageId: ['page_id', text],
  kind: ['kind', json],
  tagId: ['tag_id', maybeText],
  label: ['label', text],
  x: ['x', count],
  y: ['y', count],
  w: ['w', count],
  h: ['h', count],
  settings: ['settings', json],
});
