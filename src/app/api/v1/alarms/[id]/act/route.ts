import { answer, guarded, readBody } from '../../../../http/answers.ts';
import { ALARM_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

/** By an engineer at the bench, who says who it is. */
export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, ALARM_BODY);
  if (!body.ok) return answer(body);
  const { who, ...act } = body.value;
  return answer(await services().alarms.act({ ...act, by: who, alarmId: (await context.params).id }));
});
