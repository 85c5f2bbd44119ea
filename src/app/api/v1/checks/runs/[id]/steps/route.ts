import { answer, guarded, readBody } from '../../../../../http/answers.ts';
import { RUN_STEP_BODY } from '../../../../../http/bodies.ts';
import { services } from '../../../../../http/services.ts';
import type { SaidStep } from '@/services/checks/runService.ts';

/** Said by a person of one tag. */
export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, RUN_STEP_BODY);
  if (!body.ok) return answer(body);
  const { tagId, who, step, words, side } = body.value;
  const said = (
    step === 'finding' ? { step, words, side: side ?? 'unknown' } : step === 'note' ? { step, words, picture: null } : { step, words }
  ) as SaidStep;
  return answer(await services().runs.say((await context.params).id, tagId, who.trim(), said));
});
