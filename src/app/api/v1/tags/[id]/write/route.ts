import { fail } from '@/core/result.ts';
import { answer, guarded, isFromAfar, readBody } from '../../../../http/answers.ts';
import { WRITE_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, WRITE_BODY);
  if (!body.ok) return answer(body);
  if (request.headers.has('x-mill-latch-peer') && body.value.origin !== 'panel')
    return answer(fail('not-here', 'A phone or panel writes as a panel.', undefined, 'origin'));
  const { id, value, unit, origin, rounding } = body.value;
  const { id: tagId } = await context.params;
  if (isFromAfar(request) && !services().isOnPanel(tagId))
    return answer(fail('not-here', 'A phone or panel writes what panels show.', undefined, 'id'));
  return answer(await services().writes.write({ id, tagId, value, unit, writer: origin, rounding }));
});
