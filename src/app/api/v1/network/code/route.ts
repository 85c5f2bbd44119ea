import { answer, guarded } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async () => answer(services().network.showCode()));
