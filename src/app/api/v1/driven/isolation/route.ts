import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { ISOLATION_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

/** A named person answers for it that nothing can move; 0 minutes: it is in use again. */
export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, ISOLATION_BODY);
  if (!body.ok) return answer(body);
  const { deviceId, who, minutes } = body.value;
  const { driving, model } = services();
  const name = model.get('device', deviceId)?.name ?? deviceId;
  const done = minutes === 0 ? await driving.endIsolation(deviceId) : driving.isolate(deviceId, who, minutes);
  const told = audited(done, minutes === 0 ? 'in-use' : 'isolated', who, () => (minutes === 0 ? name : `${name}, for ${minutes} minutes`));
  return answer(told.ok ? ok(driving.now) : told);
});
