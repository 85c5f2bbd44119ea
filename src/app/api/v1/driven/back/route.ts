import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../../http/answers.ts';
import { WHO_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

/** Takes all back that is set and held. */
export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, WHO_BODY);
  if (!body.ok) return answer(body);
  const done = await services().driving.takeAllBack(body.value.who);
  return answer(
    ok({ back: done.filter(({ ok: isBack }) => isBack).length, problems: done.flatMap((each) => (each.ok ? [] : [each.problem.message])) }),
  );
});
