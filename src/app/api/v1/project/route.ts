import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const GET = guarded(async (request: Request) => {
  const all = services();
  return answer(ok(new URL(request.url).searchParams.get('first') === '1' ? all.firstSnapshot() : all.snapshot()));
});
