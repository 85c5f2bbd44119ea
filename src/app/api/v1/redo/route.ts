import { answer, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async () => answer(await services().projects.step('redo')));
