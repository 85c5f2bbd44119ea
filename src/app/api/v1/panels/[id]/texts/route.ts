import { object, string } from 'yup';
import { MAX_LIST_BYTES } from '@/core/taglist/limits.ts';
import { TEXT_FORMATS } from '@/core/panel/textTable.ts';
import { answer, answerFile, guarded, problem, readFile, readQuery } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

const QUERY = object({ format: string().oneOf(TEXT_FORMATS, 'A file of texts is csv or xlsx.') });

interface Context {
  readonly params: Promise<{ id: string }>;
}

export const GET = guarded(async (request: Request, context: Context) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return problem(query.problem);
  const file = services().texts.write((await context.params).id, query.value.format ?? 'csv');
  return file.ok ? answerFile(file.value) : problem(file.problem);
});

export const POST = guarded(async (request: Request, context: Context) => {
  const file = await readFile(request, MAX_LIST_BYTES);
  return answer(file.ok ? services().texts.read((await context.params).id, file.value) : file);
});
