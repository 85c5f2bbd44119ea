import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../../../../http/answers.ts';
import { services } from '../../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(ok(await services().lists.versions((await context.params).id))),
);
