import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { audited } from '../../../../http/audited.ts';
import { PEER_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

const RIGHTS_WORDS: Readonly<Record<string, string>> = { read: 'may only read', check: 'may look in checks', write: 'may write' };

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const { id } = await context.params;
  const body = await readBody(request, PEER_BODY);
  if (!body.ok) return answer(body);
  const { network } = services();
  const { rights } = body.value;
  const name = network.state().peers.find((peer) => peer.id === id)?.name ?? '';
  const done = rights === 'none' ? await network.remove(id) : await network.setRights(id, rights);
  return answer(audited(done, 'rights', name, () => (rights === 'none' ? 'its session was ended' : (RIGHTS_WORDS[rights] ?? rights))));
});
