import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { audited } from '../../../../http/audited.ts';
import { WHO_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WHO_BODY);
  if (!body.ok) return answer(body);
  const { who } = body.value;
  const done = await services().driving.letStay((await context.params).id, who);
  return answer(audited(done, 'stays', who, ({ tagName, deviceName, ourText }) => `${tagName} of ${deviceName} may stay as it was set: ${ourText}`));
});
