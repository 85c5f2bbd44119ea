/** What a search over a link tells, one by one. */
export type Finding =
  /** Before anything is asked: whether somebody else speaks on the line. */
  | { readonly kind: 'listened'; readonly heard: number }
  | {
      readonly kind: 'number';
      readonly number: number;
      readonly answer: 'value' | 'refusal' | 'damaged' | 'silent';
      readonly ms: number;
      readonly seen: string;
    }
  | {
      readonly kind: 'line';
      /** Of the link, as they were tried. */
      readonly settings: Readonly<Record<string, unknown>>;
      readonly number: number | null;
      readonly seen: string;
    }
  /** Somebody who answered on a network, and what a link is set to that leads there. */
  | { readonly kind: 'party'; readonly where: string; readonly seen: string; readonly settings: Readonly<Record<string, unknown>> }
  | { readonly kind: 'problem'; readonly message: string; readonly remedy: string };

/** How long a search takes at the most, in milliseconds: when nobody answers. */
export function longestNumbers(count: number, timeoutMs: number): number {
  return LISTEN_MS + count * (timeoutMs + 100);
}
/** @param tries settings of the line */
export function longestLine(tries: number, count: number, timeoutMs: number): number {
  return LISTEN_MS + tries * (300 + count * (timeoutMs + 100));
}

export const LISTEN_MS = 1500;
