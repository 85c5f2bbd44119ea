import type { Confirm } from '@/core/project/confirm.ts';
import type { Tag } from '@/core/project/entities.ts';
import { maybeNumber, text, type Aggregate } from './aggregate.ts';

export const tags: Aggregate<Tag> = {
  load: `select id, device_id, name, group_name, address, type, byte_order, period_ms, access, unit, decimals,
           range_low, range_high, comment, source_id, confirm from tags`,
  fromRow: (row) => ({
    id: text(row.id),
    deviceId: text(row.device_id),
    name: text(row.name),
    group: text(row.group_name),
    address: text(row.address),
    type: text(row.type),
    order: text(row.byte_order),
    periodMs: Number(row.period_ms),
    access: row.access === 'readWrite' ? 'readWrite' : 'read',
    unit: text(row.unit),
    decimals: maybeNumber(row.decimals),
    rangeLow: maybeNumber(row.range_low),
    rangeHigh: maybeNumber(row.range_high),
    comment: text(row.comment),
    sourceId: text(row.source_id),
    confirm: row.confirm as Confirm,
  }),
  put: (t) => ({
    sql: `insert into tags (id, device_id, name, group_name, address, type, byte_order, period_ms, access, unit, decimals,
            range_low, range_high, comment, source_id, confirm)
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16)
          on conflict (id) do update set device_id = excluded.device_id, name = excluded.name, group_name = excluded.group_name,
            address = excluded.address, type = excluded.type, byte_order = excluded.byte_order, period_ms = excluded.period_ms,
            access = excluded.access, unit = excluded.unit, decimals = excluded.decimals, range_low = excluded.range_low,
            range_high = excluded.range_high, comment = excluded.comment, source_id = excluded.source_id,
            confirm = excluded.confirm`,
    params: [
      t.id,
      t.deviceId,
      t.name,
      t.group,
      t.address,
      t.type,
      t.order,
      t.periodMs,
      t.access,
      t.unit,
      t.decimals,
      t.rangeLow,
      t.rangeHigh,
      t.comment,
      t.sourceId,
      t.confirm,
    ],
  }),
  remove: (id) => ({ sql: 'delete from tags where id = $1', params: [id] }),
};
