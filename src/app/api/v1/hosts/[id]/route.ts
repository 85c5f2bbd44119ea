import { answer, guarded } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const GET = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) =>
  answer(await services().hosting.state((await context.params).id)),
);
