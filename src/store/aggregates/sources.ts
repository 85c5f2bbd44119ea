import type { Source } from '@/core/project/entities.ts';
import { aggregate, count, json, maybeText, text } from './aggregate.ts';

export const sources = aggregate<Source>('sources', {
  id: ['id', text],
  deviceId: ['device_id', text],
  fileName: ['file_name', text],
  importedAt: ['imported_at', text],
  rowCount: ['row_count', count],
  versionId: ['version_id', maybeText],
  choices: ['choices', json],
});
