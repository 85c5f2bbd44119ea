import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { NETWORK_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(services().network.state())));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, NETWORK_BODY);
  return answer(body.ok ? await services().network.change(body.value) : body);
});
