import { answerApplied, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async () => answerApplied(await services().projects.step('undo')));
