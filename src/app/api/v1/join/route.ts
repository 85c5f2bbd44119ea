import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { audited } from '../../http/audited.ts';
import { JOIN_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

/** The session lasts as long as a machine is commonly being set up. */
const MAX_AGE_S = 30 * 24 * 3600;
/** Of what anybody may send. */
const MAX_BYTES = 1000;

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, JOIN_BODY, MAX_BYTES);
  if (!body.ok) return answer(body);
  const from = request.headers.get('x-mill-latch-from') ?? '';
  const joined = audited(await services().network.join(body.value.code, body.value.name, from), 'joined', body.value.name, () => `from ${from}`);
  if (!joined.ok) {
    // Tries without end are refused before they are looked at, and are not entered without end either.
    if (joined.problem.code !== 'too-many') services().audit.record('not-joined', body.value.name, `from ${from}: ${joined.problem.message}`);
    return answer(joined);
  }
  const response = answer(ok(joined.value.peer));
  response.headers.set('set-cookie', `mill-latch-session=${joined.value.token}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${MAX_AGE_S}`);
  return response;
});
