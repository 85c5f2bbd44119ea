import { ok } from '@/core/result.ts';
import { answer, guarded } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

/** People who sign in at panels, and whether they can yet. */
export const GET = guarded(async () => {
  const { model, signIn } = services();
  return answer(ok(model.all('operator').map((operator) => ({ ...operator, hasPin: signIn.withPin.has(operator.id) }))));
});
