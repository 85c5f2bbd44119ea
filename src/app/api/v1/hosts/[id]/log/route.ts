import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) => {
  const fetched = await services().hosting.fetchLog((await context.params).id);
  return answer(fetched.ok ? ok({ entries: fetched.value }) : fetched);
});
