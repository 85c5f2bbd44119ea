import { object, string } from 'yup';
import { AUDIT_KINDS, type AuditKind } from '@/core/live/auditEntry.ts';
import { ok } from '@/core/result.ts';
import { answer, guarded, limitOf, readQuery } from '../../http/answers.ts';
import { services } from '../../http/services.ts';

const QUERY = object({ text: string().max(200), kind: string<AuditKind>().oneOf(AUDIT_KINDS, 'There is no such kind of entry.') });

export const GET = guarded(async (request: Request) => {
  const query = readQuery(request, QUERY);
  return answer(query.ok ? ok(await services().audit.entries({ ...query.value, limit: limitOf(request, 100, 10_000) })) : query);
});
