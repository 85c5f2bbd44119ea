import { answerJson, guarded } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const GET = guarded(async (_: Request, context: { params: Promise<{ id: string }> }) =>
  answerJson(services().panels.bundleJson((await context.params).id)),
);
