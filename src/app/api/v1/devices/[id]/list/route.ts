import { answerFile, guarded, problem } from '../../../../http/answers.ts';
import { services } from '../../../../http/services.ts';

export const GET = guarded(async (_request: Request, context: { params: Promise<{ id: string }> }) => {
  const list = services().lists.takeOut((await context.params).id);
  if (!list.ok) return problem(list.problem);
  const { name, csv } = list.value;
  return answerFile({ name: `${name}.csv`, type: 'text/csv; charset=utf-8', bytes: csv });
});
