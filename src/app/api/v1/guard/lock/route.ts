import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { LOCK_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, LOCK_BODY);
  if (!body.ok) return answer(body);
  const { guard, model } = services();
  const open = guard.all().filter(({ deviceId }) => body.value.deviceId === undefined || deviceId === body.value.deviceId);
  guard.lock(body.value.deviceId);
  const names = open.map(({ deviceId }) => model.get('device', deviceId)?.name ?? deviceId).join(', ');
  return answer(audited(ok({ unlocked: guard.all() }), 'locked', '', () => names || 'nothing was open'));
});
