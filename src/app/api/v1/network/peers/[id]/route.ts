import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { PEER_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const { id } = await context.params;
  const body = await readBody(request, PEER_BODY);
  if (!body.ok) return answer(body);
  const { network } = services();
  return answer(body.value.rights === 'none' ? await network.remove(id) : await network.setRights(id, body.value.rights));
});
