import { answer, guarded, problem, readBody } from '../../../../http/answers.ts';
import { FIND_VALUE_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, FIND_VALUE_BODY);
  if (!body.ok) return problem(body.problem);
  return answer(await services().finds.value((await context.params).id, body.value.reference, body.value.value, request.signal));
});
