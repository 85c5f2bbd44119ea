import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(services().lists.status((await context.params).id)),
);
