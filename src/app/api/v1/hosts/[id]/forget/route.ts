import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) =>
  answer(await services().hosting.remove((await context.params).id)),
);
