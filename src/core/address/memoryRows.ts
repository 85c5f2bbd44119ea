/** What is drawn of a row of cells: the values that lie in it, one above the other where they overlap. */
import { inOrder, type Span } from './memoryMap.ts';

export interface Piece {
  readonly keys: readonly string[];
  /** Cells of the row, from the first on. */
  readonly from: number;
  readonly to: number;
  /** Which line of the row; 0 unless something else lies there already. */
  readonly lane: number;
  /** It goes on in the row before or after. */
  readonly isCut: boolean;
  /** Bits of one cell, drawn as one. */
  readonly isBits: boolean;
}

/** Values in order, for looking up those of some cells quickly. */
export class MemoryRows {
  /** By where they begin. */
  readonly spans: readonly Span[];
  readonly #longest: number;
  readonly #cellBits: number;

  constructor(spans: readonly Span[], cellBits: number) {
    this.spans = inOrder(spans);
    this.#longest = this.spans.reduce((most, { from, to }) => Math.max(most, to - from), 0);
    this.#cellBits = cellBits;
  }

  /** The first cell that is used, null where none is. */
  get first(): number | null {
    const [span] = this.spans;
    return span ? Math.floor(span.from / this.#cellBits) : null;
  }

  /** Values that have bits in some cells. */
  in(firstCell: number, cells: number): readonly Span[] {
    const [from, to] = [firstCell * this.#cellBits, (firstCell + cells) * this.#cellBits];
    const found: Span[] = [];
    for (let i = this.#indexFrom(from - this.#longest); i < this.spans.length; i++) {
      const span = this.spans[i];
      if (!span || span.from >= to) break;
      if (span.to > from) found.push(span);
    }
    return found;
  }

  row(firstCell: number, cells: number): readonly Piece[] {
    const shown: Omit<Piece, 'lane'>[] = [];
    const bits = new Map<number, string[]>();
    for (const span of this.in(firstCell, cells)) {
      const from = Math.floor(span.from / this.#cellBits) - firstCell;
      const to = Math.ceil(span.to / this.#cellBits) - firstCell;
      if (span.to - span.from >= this.#cellBits) {
        shown.push({ keys: [span.key], from: Math.max(0, from), to: Math.min(cells, to), isCut: from < 0 || to > cells, isBits: false });
        continue;
      }
      const keys = bits.get(from);
      if (keys) keys.push(span.key);
      else bits.set(from, [span.key]);
    }
    for (const [cell, keys] of bits) shown.push({ keys, from: cell, to: cell + 1, isCut: false, isBits: true });
    const ends: number[] = [];
    return shown.sort((a, b) => a.from - b.from).map((piece) => ({ ...piece, lane: laneFor(ends, piece) }));
  }

  #indexFrom(bit: number): number {
    let [low, high] = [0, this.spans.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.spans[middle]?.from ?? 0) < bit) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/** The first line that is free there. @param ends where each line is taken to; written on */
function laneFor(ends: number[], { from, to }: { readonly from: number; readonly to: number }): number {
  let lane = ends.findIndex((end) => end <= from);
  if (lane < 0) lane = ends.length;
  ends[lane] = Math.max(ends[lane] ?? 0, to);
  return lane;
}
