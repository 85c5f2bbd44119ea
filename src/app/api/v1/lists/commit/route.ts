import { answerApplied, guarded, LARGE_BODY_BYTES, readBody } from '../../../http/answers.ts';
import { COMMIT_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, COMMIT_BODY, LARGE_BODY_BYTES);
  return answerApplied(body.ok ? await services().lists.commit(body.value) : body);
});
