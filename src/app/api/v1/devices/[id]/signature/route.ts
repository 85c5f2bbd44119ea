import { answer, guarded, problem, readBody } from '../../../../http/answers.ts';
import { SIGNATURE_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, SIGNATURE_BODY);
  if (!body.ok) return problem(body.problem);
  return answer(await services().signatures.read((await context.params).id, body.value, request.signal));
});
