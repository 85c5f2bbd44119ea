import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { PAIR_HOST_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok({ hosts: await services().hosting.list() })));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, PAIR_HOST_BODY);
  return answer(body.ok ? await services().hosting.pair(body.value.address, body.value.code) : body);
});
