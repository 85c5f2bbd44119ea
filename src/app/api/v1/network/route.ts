import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { audited } from '../../http/audited.ts';
import { NETWORK_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(services().network.state())));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, NETWORK_BODY);
  if (!body.ok) return answer(body);
  const done = await services().network.change(body.value);
  return answer(audited(done, 'network', '', ({ url }) => (url === null ? 'closed to the network' : `opened to the network at ${url}`)));
});
