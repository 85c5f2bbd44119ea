import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { audited } from '../../../../http/audited.ts';
import { WHO_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WHO_BODY);
  if (!body.ok) return answer(body);
  const { id } = await context.params;
  const { holds } = services();
  const told = holds.notReleased.find(({ holdId }) => holdId === id);
  const done = await holds.saidOff(id, body.value.who);
  return answer(audited(done, 'off', body.value.who, () => `has seen that ${told?.tagName ?? id} of ${told?.deviceName ?? ''} is off`));
});
