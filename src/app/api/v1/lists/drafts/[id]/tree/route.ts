import { object, string } from 'yup';
import { answer, guarded, problem, readQuery } from '../../../../../http/answers.ts';
import { services } from '../../../../../http/services.ts';

const QUERY = object({ node: string().matches(/^\d{1,8}$/, 'A node is a whole number; 0 is the root.') });

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return problem(query.problem);
  return answer(await services().lists.tree((await context.params).id, Number(query.value.node ?? '0')));
});
