/** Alarms as lists show them. */
import type { Alarm } from '../project/kinds/alarm.ts';
import { PRIORITIES, type Priority } from '../project/kinds/priorities.ts';
import { isCalling, type AlarmEventKind, type AlarmState, type Shelved, type Standing } from './alarmState.ts';

export interface AlarmLine
  extends Pick<Alarm, 'id' | 'priority' | 'group' | 'advice'>, Pick<Standing, 'cameAt' | 'goneAt' | 'ackedAt' | 'ackedBy' | 'count' | 'values'> {
  readonly state: AlarmState;
  /** Its text, with expressions in the places of {@link Standing.values}. */
  readonly template: string;
  readonly shelved: Shelved | null;
  /** Why its condition is not known now; empty where it is. */
  readonly unknown: string;
  /** Why the controller was not told of its acknowledgement; empty where it was, or need not be. */
  readonly problem: string;
}

/** A normal alarm that nobody can vouch for. */
export interface UnknownAlarm extends Pick<Alarm, 'priority' | 'group'> {
  readonly template: string;
  readonly why: string;
}

/** What there is to see now: open alarms, and normal ones whose condition is not known. */
export interface AlarmsNow {
  readonly lines: readonly AlarmLine[];
  readonly unknown: readonly UnknownAlarm[];
  /** What keeps all of them from being kept; empty for nothing. */
  readonly problem: string;
}

export const NO_ALARMS: AlarmsNow = { lines: [], unknown: [], problem: '' };

/** What became of an alarm, as it is kept. */
export interface AlarmRecord {
  readonly seq: number;
  /** ISO 8601. */
  readonly at: string;
  readonly alarmId: string;
  readonly kind: AlarmEventKind;
  /** As it was said then. */
  readonly text: string;
  readonly priority: Priority;
  readonly group: string;
  readonly by: string;
  readonly note: string;
}

export const ALARM_ACTS = ['ack', 'reset', 'shelve', 'unshelve'] as const;
export type AlarmAct = (typeof ALARM_ACTS)[number];

/** Which alarms a list shows. */
export interface AlarmFilter {
  /** Names of groups, any case; none for all. */
  readonly groups: readonly string[];
  /** The lowest that it shows. */
  readonly least: Priority;
}

export const groupsIn = (text: string): readonly string[] =>
  text
    .split(/[,;\n]/)
    .map((group) => group.trim())
    .filter((group) => group !== '');

const rankOf = (priority: Priority): number => PRIORITIES.indexOf(priority);

export function passes({ priority, group }: Pick<Alarm, 'priority' | 'group'>, { groups, least }: AlarmFilter): boolean {
  return rankOf(priority) <= rankOf(least) && (groups.length === 0 || groups.some((one) => one.toLowerCase() === group.toLowerCase()));
}

/** What calls for somebody first, then by priority, the newest first; what is put aside stands last. */
export function inOrder(lines: readonly AlarmLine[]): readonly AlarmLine[] {
  const aside = ({ state }: AlarmLine): number => (state === 'shelved' || state === 'suppressed' || state === 'out' ? 2 : isCalling(state) ? 0 : 1);
  return [...lines].sort(
    (a, b) => aside(a) - aside(b) || rankOf(a.priority) - rankOf(b.priority) || (b.cameAt ?? 0) - (a.cameAt ?? 0) || (a.id < b.id ? -1 : 1),
  );
}
