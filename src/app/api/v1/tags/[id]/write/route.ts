import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { WRITE_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WRITE_BODY);
  if (!body.ok) return answer(body);
  const { id, value, unit, origin, rounding } = body.value;
  const { id: tagId } = await context.params;
  return answer(await services().writes.write({ id, tagId, value, unit, writer: origin, rounding }));
});
