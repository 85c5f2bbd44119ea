import { answer, guarded, problem, readBody } from '../../../../http/answers.ts';
import { SIMULATION_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, SIMULATION_BODY);
  if (!body.ok) return problem(body.problem);
  const { id } = await context.params;
  return answer(await (body.value.on ? services().simulations.begin(id) : services().simulations.end(id)));
});
