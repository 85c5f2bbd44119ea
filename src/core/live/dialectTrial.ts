import type { WireJson } from './wireJson.ts';

/** What one tag would show if its device were read in another way. */
export interface DialectTrial {
  /** Where it would be looked for, in words. */
  readonly place: string;
  /** What would be asked for. */
  readonly asked: string;
  /** What came; null when nothing did. */
  readonly wire: WireJson | null;
  /** What the panel would show, its unit included. */
  readonly text: string;
  /** Why there is no good value; null when there is one. */
  readonly problem: string | null;
  readonly roundTripMs: number;
}
