import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { SIGN_OUT_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, SIGN_OUT_BODY);
  if (!body.ok) return answer(body);
  services().signIn.signOut(body.value.session);
  return answer(ok({}));
});
