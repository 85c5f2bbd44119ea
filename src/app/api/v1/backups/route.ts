import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { NOTHING_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(await services().backups.list())));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, NOTHING_BODY);
  return answer(body.ok ? await services().backups.make('on request') : body);
});
