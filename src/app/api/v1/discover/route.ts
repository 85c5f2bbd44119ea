import { guarded, problem, readBody } from '../../http/answers.ts';
import { DISCOVER_BODY } from '../../http/bodies.ts';
import { answerLines } from '../../http/lines.ts';
import { services } from '../../http/services.ts';

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, DISCOVER_BODY);
  if (!body.ok) return problem(body.problem);
  const begun = services().connections.discover(body.value.driver, body.value.settings, request.signal);
  return begun.ok ? answerLines(begun.value) : problem(begun.problem);
});
