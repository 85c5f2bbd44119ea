import { object, string } from 'yup';
import { ok } from '@/core/result.ts';
import type { WriteState } from '@/core/live/writeOutcome.ts';
import { answer, guarded, limitOf, readQuery } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

const QUERY = object({
  text: string().max(200),
  state: string().oneOf(['sent', 'done', 'differs', 'refused', 'unknown', 'changedBack'], 'There is no such outcome.'),
  origin: string().oneOf(['engineer', 'panel', 'rule', 'check'], 'There is no such writer.'),
  from: string().datetime({ message: 'A time is ISO 8601, such as 2026-11-25T08:00:00Z.' }),
  to: string().datetime({ message: 'A time is ISO 8601, such as 2026-11-25T08:00:00Z.' }),
});

export const GET = guarded(async (request: Request) => {
  const query = readQuery(request, QUERY);
  if (!query.ok) return answer(query);
  const { state, ...rest } = query.value;
  return answer(ok(await services().writes.log({ ...rest, state: state as WriteState | undefined, limit: limitOf(request, 100, 10_000) })));
});
