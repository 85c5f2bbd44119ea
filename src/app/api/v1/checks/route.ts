import { answer, guarded, readBody } from '../../http/answers.ts';
import { CHECK_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';
import type { Witness } from '@/services/checkService.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, CHECK_BODY);
  return answer(body.ok ? await services().checks.check(body.value.tagId, body.value.witness as Witness) : body);
});
