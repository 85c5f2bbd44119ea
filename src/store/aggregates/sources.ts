import type { Source } from '@/core/project/entities.ts';
import { text, type Aggregate } from './aggregate.ts';

export const sources: Aggregate<Source> = {
  load: 'select id, device_id, file_name, imported_at, row_count from sources',
  fromRow: (row) => ({
    id: text(row.id),
    deviceId: text(row.device_id),
    fileName: text(row.file_name),
    importedAt: text(row.imported_at),
    rowCount: Number(row.row_count),
  }),
  put: (s) => ({
    sql: `insert into sources (id, device_id, file_name, imported_at, row_count) values ($1, $2, $3, $4, $5)
          on conflict (id) do update set device_id = excluded.device_id, file_name = excluded.file_name,
            imported_at = excluded.imported_at, row_count = excluded.row_count`,
    params: [s.id, s.deviceId, s.fileName, s.importedAt, s.rowCount],
  }),
  remove: (id) => ({ sql: 'delete from sources where id = $1', params: [id] }),
};
