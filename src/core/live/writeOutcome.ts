/** How a write to a controller ended, as it is told to people and programs, and its entry in the log. */
import type { ValueJson } from '../value/engineering.ts';
import type { LiveSample } from './messages.ts';
import type { Writer } from './status.ts';

export interface WriteOutcome {
  /** `differs`: taken, but something else is held. `unknown`: nobody knows whether it was done. */
  readonly state: 'done' | 'differs' | 'refused' | 'unknown';
  readonly sentence: string;
  /** What the controller holds now, when that could be read. */
  readonly held: ValueJson | null;
  readonly heldText: string | null;
  /** The newest sample of the tag afterwards, so that the page that wrote shows it at once. */
  readonly sample?: LiveSample | null;
}

/** `changedBack`: it was confirmed, and soon after the controller held something else. */
export type WriteState = WriteOutcome['state'] | 'sent' | 'changedBack';

export interface WriteRecord {
  readonly id: string;
  readonly at: string;
  readonly tagId: string;
  readonly tagName: string;
  readonly deviceName: string;
  /** What kind of writer asked. */
  readonly origin: Writer;
  /** Who had unlocked the device. */
  readonly who: string;
  /** Who was signed in at the panel; empty for nobody. */
  readonly by: string;
  /** The panel host at which it was written; empty for here. */
  readonly host: string;
  readonly old: ValueJson | null;
  readonly asked: ValueJson;
  /** What was sent for it: the nearest that the controller can hold, where that was asked for. */
  readonly sent: ValueJson;
  /** What the controller really holds, read back after its reply. */
  readonly held: ValueJson | null;
  readonly state: WriteState;
  readonly note: string;
}
