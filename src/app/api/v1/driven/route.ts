import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { DRIVE_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok({ ...services().driving.now, values: services().driving.values })));

/** Sets a tag for a check. */
export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, DRIVE_BODY);
  return answer(body.ok ? await services().driving.drive(body.value) : body);
});
