import type { TagScale } from '@/core/project/entities.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import { text, type Aggregate } from './aggregate.ts';

export const scales: Aggregate<TagScale> = {
  load: 'select id, scale from scales',
  fromRow: (row) => ({ id: text(row.id), scale: row.scale as Scale }),
  put: (s) => ({
    sql: 'insert into scales (id, scale) values ($1, $2) on conflict (id) do update set scale = excluded.scale',
    params: [s.id, s.scale],
  }),
  remove: (id) => ({ sql: 'delete from scales where id = $1', params: [id] }),
};
