import { answer, guarded, readBody } from '../../../../../http/answers.ts';
import { audited } from '../../../../../http/audited.ts';
import { WHO_BODY } from '../../../../../http/bodies.ts';
import { services } from '../../../../../http/services.ts';

/** @param context with the id of the tag */
export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WHO_BODY);
  if (!body.ok) return answer(body);
  const { id } = await context.params;
  const { driving, model } = services();
  return answer(audited(await driving.forbid(id), 'not-set', body.value.who, () => model.get('tag', id)?.name ?? id));
});
