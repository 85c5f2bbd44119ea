import { answer, guarded } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

/** The plan of a bus, prediction beside measurement. */
export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(services().buses.plan((await context.params).id)),
);
