import { answer, guarded, readBody } from '../../../http/answers.ts';
import { HOLD_VALUE_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

/** Writes a value again and again until it is released. */
export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, HOLD_VALUE_BODY);
  return answer(body.ok ? await services().driving.hold(body.value, body.value.everyMs) : body);
});
