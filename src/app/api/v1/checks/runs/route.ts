import { ok } from '@/core/result.ts';
import { answer, guarded, LARGE_BODY_BYTES, readBody } from '../../../http/answers.ts';
import { RUN_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const GET = guarded(async () => answer(ok(await services().runs.newest())));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, RUN_BODY, LARGE_BODY_BYTES);
  return answer(body.ok ? await services().runs.begin({ ...body.value, name: body.value.name.trim(), who: body.value.who.trim() }) : body);
});
