import { answer, guarded, readBody } from '../../../../../../http/answers.ts';
import { SET_BODY } from '../../../../../../http/bodies.ts';
import { services } from '../../../../../../http/services.ts';

interface Context {
  readonly params: Promise<{ id: string; elementId: string }>;
}

export const GET = guarded(async (_request: Request, context: Context) => {
  const { id, elementId } = await context.params;
  return answer(await services().valueSets.list(id, elementId));
});

export const POST = guarded(async (request: Request, context: Context) => {
  const body = await readBody(request, SET_BODY);
  if (!body.ok) return answer(body);
  const { id: panelId, elementId } = await context.params;
  return answer(await services().valueSets.act({ ...body.value, panelId, elementId }));
});
