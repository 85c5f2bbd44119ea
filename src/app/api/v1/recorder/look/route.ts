import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { PAST_LOOK_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, PAST_LOOK_BODY, 1_000_000);
  return answer(body.ok ? ok(await services().recorder.at(body.value.moment, body.value.tagIds)) : body);
});
