import { object, string } from 'yup';
import { ok } from '@/core/result.ts';
import { answer, guarded, limitOf, readQuery } from '../../../http/answers.ts';
import { services } from '../../../http/services.ts';

const QUERY = object({ text: string().max(200) });

export const GET = guarded(async (request: Request) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return answer(query);
  return answer(ok(await services().alarms.records({ text: query.value.text, limit: limitOf(request, 200, 10_000) })));
});
