/** What a search over a link tells, one by one. */
export type Finding =
  /** Before anything is asked: whether somebody else speaks on the line. */
  | { readonly kind: 'listened'; readonly heard: number }
  | {
      readonly kind: 'unit';
      readonly unit: number;
      readonly answer: 'value' | 'refusal' | 'damaged' | 'silent';
      readonly ms: number;
      readonly seen: string;
    }
  | {
      readonly kind: 'line';
      readonly speed: number;
      readonly parity: string;
      readonly stopBits: number;
      readonly unit: number | null;
      readonly seen: string;
    }
  /** Somebody who answered on a network, and what a link is set to that leads there. */
  | { readonly kind: 'party'; readonly where: string; readonly seen: string; readonly settings: Readonly<Record<string, unknown>> }
  | { readonly kind: 'problem'; readonly message: string; readonly remedy: string };

/** Speeds and parities in the order in which they are met (common practice). */
export const SPEEDS = [9600, 19200, 38400, 115_200, 57_600, 4800, 2400, 1200] as const;
export const PARITIES = [
  { parity: 'even', stopBits: 1 },
  { parity: 'none', stopBits: 1 },
  { parity: 'odd', stopBits: 1 },
  { parity: 'none', stopBits: 2 },
] as const;

/** How long a search takes at the most, in milliseconds: when nobody answers. */
export function longestUnits(units: number, timeoutMs: number): number {
  return LISTEN_MS + units * (timeoutMs + 100);
}
export function longestLine(units: number, timeoutMs: number): number {
  return LISTEN_MS + SPEEDS.length * PARITIES.length * (300 + units * (timeoutMs + 100));
}

export const LISTEN_MS = 1500;
