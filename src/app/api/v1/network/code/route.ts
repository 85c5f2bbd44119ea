import { answer, guarded } from '../../../http/answers.ts';
import { audited } from '../../../http/audited.ts';
import { services } from '../../../http/services.ts';

export const POST = guarded(async () =>
  answer(audited(services().network.showCode(), 'code', '', ({ validUntil }) => `a code to join with was shown, valid until ${validUntil}`)),
);
