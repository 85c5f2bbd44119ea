import { answer, guarded, problem, readBody } from '../../../../http/answers.ts';
import { TRY_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, TRY_BODY);
  if (!body.ok) return problem(body.problem);
  return answer(await services().connections.tryDialect((await context.params).id, body.value.tagId, body.value.dialect));
});
