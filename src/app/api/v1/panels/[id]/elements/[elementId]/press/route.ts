import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../../../../http/answers.ts';
import { PRESS_BODY } from '../../../../../../http/bodies.ts';
import { services } from '../../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string; elementId: string }> }) => {
  const body = await readBody(request, PRESS_BODY);
  if (!body.ok) return answer(body);
  const { id: panelId, elementId } = await context.params;
  const { id, value, unit, item, seen, subject, session } = body.value;
  const done = await services().panels.press({
    id,
    panelId,
    elementId,
    value,
    unit,
    item,
    seen,
    subject,
    session,
    writer: 'panel',
  });
  return answer(done.ok ? ok({ writes: done.value }) : done);
});
