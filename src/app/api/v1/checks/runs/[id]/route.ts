import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(await services().runs.get((await context.params).id)),
);
