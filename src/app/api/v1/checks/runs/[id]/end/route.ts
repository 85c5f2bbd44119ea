import { answer, guarded, readBody } from '../../../../../http/answers.ts';
import { END_RUN_BODY } from '../../../../../http/bodies.ts';
import { services } from '../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, END_RUN_BODY);
  return answer(body.ok ? await services().runs.setEnded((await context.params).id, body.value.who.trim(), body.value.ended) : body);
});
