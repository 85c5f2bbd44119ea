/** Values in the memory of a device, counted in bits from the first of their area: who overlaps whom, and what is free. */

/** From its first bit to the one after its last. */
export interface Span {
  readonly key: string;
  readonly from: number;
  readonly to: number;
}

/** By where they begin, the longest first. What is in order already is taken as it is: mostly it is. */
export function inOrder(spans: readonly Span[]): readonly Span[] {
  const isInOrder = spans.every((span, i) => i === 0 || before(spans[i - 1] ?? span, span) <= 0);
  return isInOrder ? spans : [...spans].sort(before);
}

function before(a: Span, b: Span): number {
  return a.from - b.from || b.to - a.to;
}

/** Two values that have bits in common. */
export interface Overlap {
  readonly one: Span;
  readonly other: Span;
  /** `same`: exactly the same bits. `inside`: the second lies in the first. `partly`: neither holds the other. */
  readonly how: 'same' | 'inside' | 'partly';
}

/**
 * Every pair of values that have bits in common, at most so many a value: one that covers all others is told once for each
 * of the first of them.
 */
export function overlapsOf(spans: readonly Span[], mostEach = 4): readonly Overlap[] {
  const found: Overlap[] = [];
  /** Values that may reach to where we are, by where they end. */
  let open: { readonly span: Span; told: number }[] = [];
  for (const span of inOrder(spans)) {
    // Mostly nothing reaches that far.
    if (open.some((entry) => entry.span.to <= span.from)) open = open.filter((entry) => entry.span.to > span.from);
    for (const entry of open) {
      if (entry.told >= mostEach) continue;
      entry.told++;
      const { span: one } = entry;
      const how = one.from === span.from && one.to === span.to ? 'same' : span.to <= one.to ? 'inside' : 'partly';
      found.push({ one, other: span, how });
    }
    open.push({ span, told: 0 });
  }
  return found;
}

/** Stretches between values that none of them takes. @param end the first bit after the area */
export function gapsOf(spans: readonly Span[], end: number): readonly { readonly from: number; readonly to: number }[] {
  const gaps: { from: number; to: number }[] = [];
  let at = 0;
  for (const { from, to } of inOrder(spans)) {
    if (from > at) gaps.push({ from: at, to: from });
    at = Math.max(at, to);
  }
  if (at < end) gaps.push({ from: at, to: end });
  return gaps;
}

/** The first place from `start` on where a value fits; null where there is none before the end. All in bits. */
export function nextFree(spans: readonly Span[], bits: number, alignment: number, start: number, end: number): number | null {
  for (const gap of gapsOf(spans, end)) {
    const from = Math.ceil(Math.max(gap.from, start) / alignment) * alignment;
    if (from + bits <= gap.to) return from;
  }
  return null;
}

/** Where values of one size lie that follow each other: five words each from word 2 are at 2, 7, 12, 17, 22 (common practice). */
export function laidOut(start: number, size: number, count: number, alignment = 1): readonly number[] {
  const step = Math.ceil(size / alignment) * alignment;
  return Array.from({ length: count }, (_, i) => start + i * step);
}

/** Whether two values have bits in common. */
export function spansTouch(a: Pick<Span, 'from' | 'to'>, b: Pick<Span, 'from' | 'to'>): boolean {
  return a.from < b.to && b.from < a.to;
}
