import { ok } from '@/core/result.ts';
import { answer, guarded, limitOf } from '../../../../http/answers.ts';
import { frameJson } from '../../../../http/frames.ts';
import { services } from '../../../../http/services.ts';

/** The newest frames of a link after one that is known, bytes as hexadecimal. */
export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const after = Number(new URL(request.url).searchParams.get('after') ?? 0);
  const frames = services().engine.frames((await context.params).id, limitOf(request, 60, 2000), Number.isInteger(after) && after > 0 ? after : 0);
  return answer(ok(frames.map((f) => ({ n: f.n, ...frameJson(f) }))));
});
