import { answer, guarded, readBody } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { UNLOCK_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, UNLOCK_BODY);
  if (!body.ok) return answer(body);
  const { deviceId, who, minutes } = body.value;
  const done = await services().guards.unlock(body.value);
  const name = services().model.get('device', deviceId)?.name ?? deviceId;
  return answer(audited(done, 'unlocked', who, ({ writers }) => `${name}, for ${minutes} min, for ${writers.join(', ')}`));
});
