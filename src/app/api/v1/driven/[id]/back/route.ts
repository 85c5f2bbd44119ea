import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { WHO_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WHO_BODY);
  return answer(body.ok ? await services().driving.takeBack((await context.params).id, body.value.who) : body);
});
