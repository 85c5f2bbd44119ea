import { answer, guarded, readBody } from '../../../../../../http/answers.ts';
import { PANEL_ALARM_BODY } from '../../../../../../http/bodies.ts';
import { services } from '../../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string; elementId: string }> }) => {
  const body = await readBody(request, PANEL_ALARM_BODY);
  if (!body.ok) return answer(body);
  const { id: panelId, elementId } = await context.params;
  return answer(await services().panelAlarms.act({ ...body.value, panelId, elementId }));
});
