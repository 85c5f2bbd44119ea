import { answer, guarded, readBody } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { RESTORE_BODY } from '../../../http/bodies.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, RESTORE_BODY);
  return answer(body.ok ? audited(await services().backups.restore(body.value.name), 'restore', '', () => body.value.name) : body);
});
