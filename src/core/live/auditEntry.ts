/** What people and the server itself did, beside changes of the project and writes to machines, which have logs of their own. */
export const AUDIT_KINDS = [
  'started',
  'ended',
  'unlocked',
  'locked',
  'network',
  'code',
  'joined',
  'not-joined',
  'rights',
  'pin',
  'signed-in',
  'signed-out',
  'not-signed-in',
  'checked',
  'off',
  'armed',
  'disarmed',
  'backup',
  'restore',
  'paired',
  'sent',
  'taken-over',
  'rolled-back',
  'may-be-set',
  'not-set',
  'isolated',
  'in-use',
  'stays',
] as const;
export type AuditKind = (typeof AUDIT_KINDS)[number];

export interface AuditEntry {
  readonly seq: number;
  /** ISO time. */
  readonly at: string;
  readonly kind: AuditKind;
  /** Who, where somebody said so; the name of a machine that joined. */
  readonly who: string;
  readonly detail: string;
}

export interface AuditFilter {
  readonly limit: number;
  /** Looked for anywhere, upper and lower case alike. */
  readonly text?: string | undefined;
  readonly kind?: AuditKind | undefined;
}
