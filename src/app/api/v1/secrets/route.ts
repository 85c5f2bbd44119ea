import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { SECRET_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, SECRET_BODY);
  return answer(body.ok ? ok({ id: await services().secrets.keep(body.value.value) }) : body);
});
