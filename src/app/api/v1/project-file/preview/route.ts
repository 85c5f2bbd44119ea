import { MAX_ARCHIVE_BYTES } from '@/core/projectFile/archive.ts';
import { answer, guarded, readFile } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const zip = await readFile(request, MAX_ARCHIVE_BYTES);
  return answer(zip.ok ? await services().projectFiles.preview(zip.value) : zip);
});
