import type { Witness } from '@/services/checks/checkService.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { CHECK_BODY } from '../../http/bodies.ts';
import { answerChecked } from '../../http/checking.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, CHECK_BODY);
  if (!body.ok) return answer(body);
  const { tagId } = body.value;
  const witness = body.value.witness as Witness;
  return answerChecked(tagId, witness, await services().checks.check(tagId, witness));
});
