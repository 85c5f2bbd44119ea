import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { SIGN_IN_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, SIGN_IN_BODY);
  return answer(body.ok ? await services().signIn.signIn((await context.params).id, body.value.operatorId, body.value.pin) : body);
});
