import type { DraftChoices } from '@/core/taglist/draft.ts';
import { answer, guarded, problem, LARGE_BODY_BYTES, readBody } from '../../../../../http/answers.ts';
import { READ_DRAFT_BODY } from '../../../../../http/bodies.ts';
import { services } from '../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, READ_DRAFT_BODY, LARGE_BODY_BYTES);
  if (!body.ok) return problem(body.problem);
  return answer(await services().lists.reread((await context.params).id, body.value.choices as DraftChoices));
});
