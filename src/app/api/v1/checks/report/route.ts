import { guarded } from '../../../http/answers.ts';
import { answerReport } from '../../../http/checking.ts';

/** Of all tags. */
export const GET = guarded((request: Request) => answerReport(request, null));
