import type { Tag } from '@/core/project/entities.ts';
import { aggregate, count, json, maybeNumber, text } from './aggregate.ts';

export const tags = aggregate<Tag>('tags', {
  id: ['id', text],
  deviceId: ['device_id', text],
  name: ['name', text],
  group: ['group_name', text],
  address: ['address', text],
  type: ['type', text],
  order: ['byte_order', text],
  periodMs: ['period_ms', count],
  access: ['access', json],
  unit: ['unit', text],
  decimals: ['decimals', maybeNumber],
  rangeLow: ['range_low', maybeNumber],
  rangeHigh: ['range_high', maybeNumber],
  comment: ['comment', text],
  names: ['value_names', json],
  initial: ['initial_value', text],
  sourceId: ['source_id', text],
  listName: ['list_name', text],
  isGone: ['is_gone', json],
  confirm: ['confirm', json],
});
