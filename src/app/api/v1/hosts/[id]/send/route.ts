import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { SEND_BODY } from '../../../../http/bodies.ts';
import { answerLines } from '../../../../http/lines.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, SEND_BODY);
  if (!body.ok) return answer(body);
  const { panelId, replaces } = body.value;
  return answerLines(services().hosting.send((await context.params).id, panelId, replaces, request.signal));
});
