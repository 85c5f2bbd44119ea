import { answer, guarded } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const GET = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) =>
  answer(services().panels.bundle((await context.params).id)),
);
