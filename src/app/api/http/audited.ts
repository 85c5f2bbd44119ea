/** What was asked for and done goes into the audit trail; where it was refused, nothing happened. */
import type { AuditKind } from '@/core/live/auditEntry.ts';
import type { Result } from '@/core/result.ts';
import { services } from './services.ts';

export function audited<T>(done: Result<T>, kind: AuditKind, who: string, detail: (value: T) => string): Result<T> {
  if (done.ok) services().audit.record(kind, who, detail(done.value));
  return done;
}
