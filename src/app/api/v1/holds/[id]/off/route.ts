import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { SAID_OFF_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, SAID_OFF_BODY);
  return answer(body.ok ? await services().holds.saidOff((await context.params).id, body.value.who) : body);
});
