import { answer, guarded, limitOf } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

/** What became of the alarms that a panel shows. */
export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) =>
  answer(await services().panelAlarms.records((await context.params).id, limitOf(request, 100, 1000))),
);
