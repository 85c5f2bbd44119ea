/**
 * The states of an alarm and what leads from one to the other (IEC 62682:2014 / ISA-18.2-2016, the diagram of alarm states; letters as
 * there, from memory). Pure: the server follows it, tests compare it with the table of the standard.
 */

/** A normal, B unacknowledged, C acknowledged, D returned unacknowledged, E and F latched, G shelved, H suppressed by design, I out of service. */
export const ALARM_STATES = ['normal', 'unacked', 'acked', 'returned', 'latchedUnacked', 'latchedAcked', 'shelved', 'suppressed', 'out'] as const;
export type AlarmState = (typeof ALARM_STATES)[number];

export const STATE_WORDS = {
  normal: 'normal',
  unacked: 'active',
  acked: 'active, acknowledged',
  returned: 'gone, not acknowledged',
  latchedUnacked: 'gone, held, not acknowledged',
  latchedAcked: 'gone, held until reset',
  shelved: 'shelved',
  suppressed: 'suppressed by design',
  out: 'out of service',
} as const satisfies Readonly<Record<AlarmState, string>>;

/** How an alarm behaves. */
export interface AlarmManner {
  /** It stays until somebody has acknowledged it. */
  readonly needsAck: boolean;
  /** It stays after it is gone until somebody resets it. */
  readonly isLatched: boolean;
}

export interface Shelved {
  /** In milliseconds since 1970: it has to outlast a restart. */
  readonly until: number;
  readonly why: string;
  readonly by: string;
}

/** How an alarm stands. Times are in milliseconds since 1970. */
export interface Standing {
  readonly isActive: boolean;
  /** Nothing of it waits for somebody to acknowledge it. */
  readonly isAcked: boolean;
  /** It is held though it is gone. */
  readonly isHeld: boolean;
  /** Counts the times that it came. */
  readonly count: number;
  readonly cameAt: number | null;
  readonly goneAt: number | null;
  readonly ackedAt: number | null;
  readonly ackedBy: string;
  readonly shelved: Shelved | null;
  readonly isSuppressed: boolean;
  readonly isOut: boolean;
  /** The values in its text when it came, by their expressions. */
  readonly values: Readonly<Record<string, string>>;
}

export const NORMAL: Standing = {
  isActive: false,
  isAcked: true,
  isHeld: false,
  count: 0,
  cameAt: null,
  goneAt: null,
  ackedAt: null,
  ackedBy: '',
  shelved: null,
  isSuppressed: false,
  isOut: false,
  values: {},
};

export const ALARM_EVENTS = ['came', 'gone', 'acked', 'reset', 'shelved', 'unshelved', 'suppressed', 'unsuppressed', 'out', 'in'] as const;
export type AlarmEventKind = (typeof ALARM_EVENTS)[number];

export const EVENT_WORDS = {
  came: 'came',
  gone: 'gone',
  acked: 'acknowledged',
  reset: 'reset',
  shelved: 'shelved',
  unshelved: 'back from the shelf',
  suppressed: 'suppressed by design',
  unsuppressed: 'suppressed no more',
  out: 'out of service',
  in: 'in service again',
} as const satisfies Readonly<Record<AlarmEventKind, string>>;

export interface AlarmEvent {
  readonly kind: AlarmEventKind;
  readonly at: number;
  readonly by?: string;
  readonly values?: Standing['values'];
  readonly until?: number;
  readonly why?: string;
}

/** What keeps an alarm from being told goes before how it stands behind that. */
export function stateOf({ isActive, isAcked, isHeld, shelved, isSuppressed, isOut }: Standing): AlarmState {
  if (isOut) return 'out';
  if (isSuppressed) return 'suppressed';
  if (shelved) return 'shelved';
  if (isActive) return isAcked ? 'acked' : 'unacked';
  if (isHeld) return isAcked ? 'latchedAcked' : 'latchedUnacked';
  return isAcked ? 'normal' : 'returned';
}

/** States in which it calls for somebody. */
export const isCalling = (state: AlarmState): boolean => state === 'unacked' || state === 'returned' || state === 'latchedUnacked';

/** Open: there is something to be seen of it in a list of what is now. */
export const isOpen = (state: AlarmState): boolean => state !== 'normal';

/** @returns how it stands after it; null where the event says nothing new of it, or may not be now */
export function after(standing: Standing, event: AlarmEvent, manner: AlarmManner): Standing | null {
  const { kind, at } = event;
  const state = stateOf(standing);
  const isTold = state !== 'out' && state !== 'suppressed' && state !== 'shelved';
  switch (kind) {
    case 'came':
      if (standing.isActive) return null;
      return { ...standing, ...comes(standing, at, manner), values: event.values ?? {} };
    case 'gone':
      if (!standing.isActive) return null;
      // What nobody was told of is not held for anybody.
      return { ...standing, isActive: false, goneAt: at, ...(isTold ? { isHeld: manner.isLatched } : { isAcked: true, isHeld: false }) };
    case 'acked':
      return isCalling(state) ? { ...standing, isAcked: true, ackedAt: at, ackedBy: event.by ?? '' } : null;
    case 'reset':
      return state === 'latchedAcked' ? { ...standing, isHeld: false } : null;
    case 'shelved':
      if (state === 'out' || state === 'suppressed') return null;
      return { ...standing, shelved: { until: event.until ?? at, why: event.why ?? '', by: event.by ?? '' } };
    case 'unshelved':
      return standing.shelved ? told({ ...standing, shelved: null }, manner) : null;
    case 'suppressed':
      return standing.isSuppressed ? null : { ...standing, isSuppressed: true };
    case 'unsuppressed':
      return standing.isSuppressed ? told({ ...standing, isSuppressed: false }, manner) : null;
    case 'out':
      return standing.isOut ? null : { ...standing, isOut: true };
    case 'in':
      return standing.isOut ? told({ ...standing, isOut: false }, manner) : null;
  }
}

function comes({ count }: Standing, at: number, { needsAck }: AlarmManner): Partial<Standing> {
  return { isActive: true, isAcked: !needsAck, isHeld: false, count: count + 1, cameAt: at, goneAt: null, ackedAt: null, ackedBy: '' };
}

/** Told of again (G, H, I to A or B): what is active calls anew, what went meanwhile is over. */
function told(standing: Standing, { needsAck }: AlarmManner): Standing {
  if (standing.isOut || standing.isSuppressed || standing.shelved) return standing;
  return standing.isActive ? { ...standing, isAcked: !needsAck } : { ...standing, isAcked: true, isHeld: false };
}
