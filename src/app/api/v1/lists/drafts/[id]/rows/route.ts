import { object, string } from 'yup';
import { DRAFT_PARTS, type DraftPart } from '@/core/taglist/draft.ts';
import { answer, guarded, limitOf, problem, readQuery } from '../../../../../http/answers.ts';
import { services } from '../../../../../http/services.ts';

const QUERY = object({
  part: string<DraftPart>().oneOf(DRAFT_PARTS, 'There is no such part of a list.').required('Say which rows.'),
  from: string().matches(/^\d{1,7}$/, 'From which row on is a whole number.'),
});

export const GET = guarded(async (request: Request, context: { params: Promise<{ id: string }> }) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return problem(query.problem);
  const { part, from = '0' } = query.value;
  return answer(await services().lists.rows((await context.params).id, part, Number(from), limitOf(request, 100, 500)));
});
