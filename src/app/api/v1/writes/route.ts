import { object, string } from 'yup';
import { ok } from '@/core/result.ts';
import type { WriteState } from '@/core/live/writeOutcome.ts';
import { answer, guarded, limitOf, readBody, readQuery } from '../../http/answers.ts';
import { WRITES_BODY } from '../../http/bodies.ts';
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

export const POST = guarded(async (request: Request) => {
  const body = await readBody(request, WRITES_BODY);
  if (!body.ok) return answer(body);
  const { writes, origin, rounding } = body.value;
  const done = await services().writes.writeAll({ writes, writer: origin, rounding });
  if (!done.ok) return answer(done);
  return answer(ok(done.value.map((one) => (one.ok ? { outcome: one.value, problem: null } : { outcome: null, problem: one.problem }))));
});
