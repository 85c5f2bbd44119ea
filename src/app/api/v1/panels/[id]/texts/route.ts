import { object, string } from 'yup';
import { MAX_LIST_BYTES } from '@/core/taglist/limits.ts';
import { readTexts, TEXT_FORMATS, writeTexts } from '@/services/panels/textFiles.ts';
import { answer, answerFile, guarded, problem, readFile, readQuery } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

const QUERY = object({ format: string().oneOf(TEXT_FORMATS, 'A file of texts is csv or xlsx.') });

interface Context {
  readonly params: Promise<{ id: string }>;
}

export const GET = guarded(async (request: Request, context: Context) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return problem(query.problem);
  const texts = services().panels.texts((await context.params).id);
  const file = texts.ok ? writeTexts(texts.value, query.value.format ?? 'csv') : texts;
  return file.ok ? answerFile(file.value) : problem(file.problem);
});

export const POST = guarded(async (request: Request, context: Context) => {
  const texts = services().panels.texts((await context.params).id);
  if (!texts.ok) return problem(texts.problem);
  const file = await readFile(request, MAX_LIST_BYTES);
  return answer(file.ok ? readTexts(file.value, texts.value) : file);
});
