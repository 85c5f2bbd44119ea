import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(await services().holds.releaseAgain((await context.params).id)),
);
