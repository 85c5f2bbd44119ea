import type { Link, RealWay } from '@/core/project/entities.ts';
import { record, text, type Aggregate } from './aggregate.ts';

export const links: Aggregate<Link> = {
  load: 'select id, name, driver, settings, real_way from links',
  fromRow: (row) => ({
    id: text(row.id),
    name: text(row.name),
    driver: text(row.driver),
    settings: record(row.settings),
    real: (row.real_way ?? null) as RealWay | null,
  }),
  put: (l) => ({
    sql: `insert into links (id, name, driver, settings, real_way) values ($1, $2, $3, $4, $5)
          on conflict (id) do update
          set name = excluded.name, driver = excluded.driver, settings = excluded.settings, real_way = excluded.real_way`,
    params: [l.id, l.name, l.driver, l.settings, l.real],
  }),
  remove: (id) => ({ sql: 'delete from links where id = $1', params: [id] }),
};
