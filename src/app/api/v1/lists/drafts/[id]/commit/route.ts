import { answerApplied, guarded, problem, LARGE_BODY_BYTES, readBody } from '../../../../../http/answers.ts';
import { TAKE_DRAFT_BODY } from '../../../../../http/bodies.ts';
import { services } from '../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, TAKE_DRAFT_BODY, LARGE_BODY_BYTES);
  if (!body.ok) return problem(body.problem);
  const { commandId, ...decisions } = body.value;
  return answerApplied(await services().lists.take((await context.params).id, commandId, decisions));
});
