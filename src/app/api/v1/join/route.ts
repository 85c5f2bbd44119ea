import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { JOIN_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

/** The session lasts as long as a machine is commonly being set up. */
const MAX_AGE_S = 30 * 24 * 3600;
/** Of what anybody may send. */
const MAX_BYTES = 1000;

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, JOIN_BODY, MAX_BYTES);
  if (!body.ok) return answer(body);
  const joined = await services().network.join(body.value.code, body.value.name, request.headers.get('x-mill-latch-from') ?? '');
  if (!joined.ok) return answer(joined);
  const response = answer(ok(joined.value.peer));
  response.headers.set('set-cookie', `mill-latch-session=${joined.value.token}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${MAX_AGE_S}`);
  return response;
});
