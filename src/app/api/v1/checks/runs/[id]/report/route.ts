import { guarded } from '../../../../../http/answers.ts';
import { answerReport } from '../../../../../http/checking.ts';

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) =>
  answerReport(request, (await context.params).id),
);
