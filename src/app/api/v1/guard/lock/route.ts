import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { LOCK_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, LOCK_BODY);
  if (!body.ok) return answer(body);
  services().guard.lock(body.value.deviceId);
  return answer(ok({ unlocked: services().guard.all() }));
});
