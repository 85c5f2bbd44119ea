import { guarded, problem, readBody } from '../../../../../http/answers.ts';
import { FIND_BODY } from '../../../../../http/bodies.ts';
import { answerLines } from '../../../../../http/lines.ts';
import { services } from '../../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, FIND_BODY);
  if (!body.ok) return problem(body.problem);
  const { from, to, timeoutMs } = body.value;
  const numbers = Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const begun = services().finds.numbers((await context.params).id, { numbers, timeoutMs }, request.signal);
  return begun.ok ? answerLines(begun.value) : problem(begun.problem);
});
