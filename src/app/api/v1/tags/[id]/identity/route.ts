import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) => {
  const said = await services().guards.identify((await context.params).id);
  return answer(said.ok ? ok({ text: said.value }) : said);
});
