import { object } from 'yup';
import { MAX_ARCHIVE_BYTES } from '@/core/projectFile/archive.ts';
import { answer, guarded, readFile, readQuery } from '../../../http/answers.ts';
import { id } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

const QUERY = object({ command: id('The command') });

export const POST = guarded(async (request: Request) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return answer(query);
  const zip = await readFile(request, MAX_ARCHIVE_BYTES);
  return answer(zip.ok ? await services().projectFiles.importFile(zip.value, query.value.command) : zip);
});
