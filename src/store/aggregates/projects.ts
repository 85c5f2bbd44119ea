import type { Project } from '@/core/project/entities.ts';
import { text, type Aggregate } from './aggregate.ts';

export const projects: Aggregate<Project> = {
  load: 'select id, name, dialects from projects order by name',
  fromRow: (row) => ({ id: text(row.id), name: text(row.name), dialects: row.dialects as Project['dialects'] }),
  put: (p) => ({
    sql: 'insert into projects (id, name, dialects) values ($1, $2, $3) on conflict (id) do update set name = excluded.name, dialects = excluded.dialects',
    params: [p.id, p.name, JSON.stringify(p.dialects)],
  }),
  remove: (id) => ({ sql: 'delete from projects where id = $1', params: [id] }),
};
