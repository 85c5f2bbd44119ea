import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { PIN_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, PIN_BODY);
  if (!body.ok) return answer(body);
  const done = await services().signIn.setPin((await context.params).id, body.value.pin);
  return answer(done.ok ? { ok: true, value: {} } : done);
});
