import { outcomeInWords } from '@/core/check/proof.ts';
import { answer, guarded, readBody } from '../../http/answers.ts';
import { audited } from '../../http/audited.ts';
import { CHECK_BODY } from '../../http/bodies.ts';
import { services } from '../../http/services.ts';
import type { Witness } from '@/services/checks/checkService.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, CHECK_BODY);
  if (!body.ok) return answer(body);
  const { tagId, runId } = body.value;
  const witness = body.value.witness as Witness;
  const { checks, runs, model } = services();
  const done = await (runId ? runs.check(runId, tagId, witness) : checks.check(tagId, witness));
  if (witness.kind !== 'typed') return answer(done);
  const name = model.get('tag', tagId)?.name ?? tagId;
  return answer(
    audited(done, 'checked', witness.who, ({ text, proof }) => `${name}: entered “${witness.text}”, shown was “${text}”; ${outcomeInWords(proof)}`),
  );
});
