import { MOST_PAST_VALUES } from '@/core/check/recording/settings.ts';
import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { PAST_HISTORY_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, PAST_HISTORY_BODY);
  if (!body.ok) return answer(body);
  const { tagId, from, to } = body.value;
  return answer(ok(await services().recorder.history(tagId, from, to, MOST_PAST_VALUES)));
});
