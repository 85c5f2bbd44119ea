import { answer, guarded, readBody } from '../../../http/answers.ts';
import { UNLOCK_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, UNLOCK_BODY);
  return answer(body.ok ? await services().guards.unlock(body.value) : body);
});
