import { answer, guarded } from '../../../../../../http/answers.ts';
import { services } from '../../../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string; tagId: string }> }) => {
  const { id, tagId } = await context.params;
  return answer(await services().runs.look(id, tagId));
});
