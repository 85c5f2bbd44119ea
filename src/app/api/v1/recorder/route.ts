import { ok } from '@/core/result.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { RECORDER_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async () => answer(ok(services().recorder.state)));

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, RECORDER_BODY, 1_000_000);
  return answer(body.ok ? await services().recorder.set(body.value) : body);
});
