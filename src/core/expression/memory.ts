/** Functions that keep something from one moment to the next. */
import type { Value } from './tree.ts';

export interface Slot {
  /** @param afterGap the moment before had no result: nothing is known of the time between. Null: no result yet */
  next(args: readonly Value[], now: number, afterGap: boolean): Value | null;
}

export function slotFor(name: string): Slot {
  switch (name) {
    case 'since':
      return new Since();
    case 'average':
      return new Average();
    case 'count':
      return new Rising((edges) => edges);
    case 'rising':
      return new Rising((_edges, isEdge) => isEdge);
    case 'ontime':
      return new OnTime();
    case 'previous':
      return new Previous();
    case 'latch':
      return new Latch();
    default:
      throw new Error(`${name} keeps nothing.`);
  }
}

class Since implements Slot {
  #last: Value | null = null;
  #at = 0;

  next([x = 0]: readonly Value[], now: number): Value {
    if (this.#last !== x) this.#at = now;
    this.#last = x;
    return (now - this.#at) / 1000;
  }
}

class Previous implements Slot {
  #last: Value | null = null;
  #before: Value | null = null;

  next([x = 0]: readonly Value[]): Value | null {
    if (this.#last !== null && this.#last !== x) this.#before = this.#last;
    this.#last = x;
    return this.#before;
  }
}

/** A condition that is on from the start has not turned on. */
class Rising implements Slot {
  readonly #give: (edges: number, isEdge: boolean) => Value;
  #was: boolean | null = null;
  #edges = 0;

  constructor(give: (edges: number, isEdge: boolean) => Value) {
    this.#give = give;
  }

  next([condition]: readonly Value[]): Value {
    const isEdge = condition === true && this.#was === false;
    this.#was = condition === true;
    if (isEdge) this.#edges++;
    return this.#give(this.#edges, isEdge);
  }
}

class OnTime implements Slot {
  #was = false;
  #at = 0;
  #totalMs = 0;

  next([condition]: readonly Value[], now: number, afterGap: boolean): Value {
    if (this.#was && !afterGap) this.#totalMs += now - this.#at;
    this.#was = condition === true;
    this.#at = now;
    return this.#totalMs / 1000;
  }
}

class Latch implements Slot {
  #isOn = false;

  next([set, reset]: readonly Value[]): Value {
    this.#isOn = reset !== true && (this.#isOn || set === true);
    return this.#isOn;
  }
}

/** Points of an average's window: enough that one more or less does not show. */
const POINTS = 500;
const LONGEST_S = 86_400;

/**
 * The average over a window, each value as long as it stood. Kept as the area under the values up to some moments, so that
 * a window costs the same however many values came.
 */
class Average implements Slot {
  /** Time that counted and area up to it, in ms; times without values are left out of both. */
  #points: { readonly at: number; readonly counted: number; readonly area: number }[] = [];
  #value = 0;
  #at = 0;
  #counted = 0;
  #area = 0;

  next([x = 0, seconds = 0]: readonly Value[], now: number, afterGap: boolean): Value | null {
    const windowMs = Number(seconds) * 1000;
    if (!(windowMs > 0) || windowMs > LONGEST_S * 1000) return null;
    if (!afterGap) {
      this.#counted += now - this.#at;
      this.#area += this.#value * (now - this.#at);
    }
    this.#value = Number(x);
    this.#at = now;
    const last = this.#points.at(-1);
    if (!last || now - last.at >= windowMs / POINTS) this.#points.push({ at: now, counted: this.#counted, area: this.#area });
    const from = now - windowMs;
    let drop = 0;
    while (drop + 1 < this.#points.length && (this.#points[drop + 1]?.at ?? now) <= from) drop++;
    if (drop > 0) this.#points.splice(0, drop);
    const [first, second] = this.#points;
    if (!first) return this.#value;
    let { counted, area } = first;
    if (first.at < from) {
      // Between two points the values are taken to have been even.
      const next = second ?? { at: now, counted: this.#counted, area: this.#area };
      const share = next.at > first.at ? (from - first.at) / (next.at - first.at) : 0;
      counted += (next.counted - counted) * share;
      area += (next.area - area) * share;
    }
    const span = this.#counted - counted;
    return span > 0 ? (this.#area - area) / span : this.#value;
  }
}
