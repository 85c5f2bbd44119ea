import { ok } from '@/core/result.ts';
import { answer, guarded, problem, readBody } from '../../../../http/answers.ts';
import { MEMORY_BODY } from '../../../../http/bodies.ts';
import { services } from '../../../../http/services.ts';

export const POST = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const body = await readBody(request, MEMORY_BODY);
  if (!body.ok) return problem(body.problem);
  const { memory } = services();
  const here = memory.of((await context.params).id);
  const cells = here.ok ? await memory.cells(here.value, body.value, request.signal) : here;
  return answer(cells.ok ? ok({ cells: cells.value.map((cell) => cell && Buffer.from(cell).toString('hex').toUpperCase()) }) : cells);
});
