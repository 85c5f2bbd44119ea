import { answer, guarded, readBody } from '../../http/answers.ts';
import { audited } from '../../http/audited.ts';
import type { Proof } from '@/core/check/checkResult.ts';
import { CHECK_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';
import type { Witness } from '@/services/checkService.ts';

function outcome(proof: Proof | null): string {
  return proof === null ? 'no proof' : proof.agrees ? 'they agree' : 'they differ';
}

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, CHECK_BODY);
  if (!body.ok) return answer(body);
  const witness = body.value.witness as Witness;
  const done = await services().checks.check(body.value.tagId, witness);
  if (witness.kind !== 'typed') return answer(done);
  const name = services().model.get('tag', body.value.tagId)?.name ?? body.value.tagId;
  return answer(
    audited(done, 'checked', witness.who, ({ text, proof }) => `${name}: entered “${witness.text}”, shown was “${text}”; ${outcome(proof)}`),
  );
});
