import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { BACK_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, BACK_BODY);
  return answer(body.ok ? await services().hosting.goBack((await context.params).id, body.value.replaces) : body);
});
