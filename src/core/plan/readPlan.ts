/**
 * Covers spans of one area with the cheapest requests. A value is never split over two requests; one that cannot fit
 * in any request is read in pieces and marked, since its parts may come from different moments.
 */
import { atOnce } from '../inSlices.ts';
import { sorting } from '../sortInSteps.ts';

/** Spans that are handled in one step of a long planning. */
const STEP = 1000;

export interface Span {
  readonly start: number;
  /** Registers or bits, at least 1. */
  readonly count: number;
}

export interface PlanLimits {
  /** Most registers or bits of one request. */
  readonly maxCount: number;
  /** Unused registers or bits that may be read across between two spans; 0 reads none. */
  readonly maxGap: number;
  /** What a request costs by itself, and what each register or bit adds, in the same unit of time. */
  readonly cost?: ReadCost;
}

export interface ReadCost {
  readonly perRequest: number;
  readonly perAddress: number;
}

/** On a network a request costs as much as hundreds of registers: as few requests as can be. */
const FEWEST_REQUESTS: ReadCost = { perRequest: 1, perAddress: 1e-6 };
/** Requests that are put together in one step. */
const REQUESTS = 20;

export interface PlannedRequest {
  readonly start: number;
  readonly count: number;
  /** Indexes of the spans that lie wholly inside. */
  readonly spans: readonly number[];
}

export interface ReadPlan {
  readonly requests: readonly PlannedRequest[];
  /** Spans longer than any request: each with its pieces in order. */
  readonly torn: readonly { readonly span: number; readonly pieces: readonly Span[] }[];
}

/**
 * The partition of least cost, by dynamic programming: once spans that lie inside others are set aside, requests of
 * a cheapest cover take the remaining spans in the order of their starts, each an unbroken run of them. (Were two
 * spans taken crosswise, one of the two requests would hold both.)
 *
 * @param spans in any order, overlapping or equal ones included
 */
export function planReads(spans: readonly Span[], limits: PlanLimits): ReadPlan {
  return atOnce(planningReads(spans, limits));
}

/** The same in steps, for thousands of spans. */
export function* planningReads(spans: readonly Span[], limits: PlanLimits): Generator<void, ReadPlan> {
  const { maxCount, maxGap, cost = FEWEST_REQUESTS } = limits;
  const torn: { span: number; pieces: Span[] }[] = [];
  const whole: number[] = [];
  for (const [index, { start, count }] of spans.entries()) {
    if (index % STEP === STEP - 1) yield;
    if (count > maxCount) torn.push({ span: index, pieces: cut(start, count, maxCount) });
    else whole.push(index);
  }
  const sorted = yield* sorting(whole, (a, b) => at(spans, a).start - at(spans, b).start || at(spans, b).count - at(spans, a).count);
  // Ends grow with starts from here on: what lies inside another goes where the other goes.
  const starts: number[] = [];
  const ends: number[] = [];
  const members: number[][] = [];
  for (const [done, index] of sorted.entries()) {
    if (done % STEP === STEP - 1) yield;
    const { start, count } = at(spans, index);
    if (start + count <= (ends.at(-1) ?? -1)) members.at(-1)?.push(index);
    else {
      starts.push(start);
      ends.push(start + count);
      members.push([index]);
    }
  }
  yield;
  const from = cheapestRuns(starts, ends, maxCount, maxGap, cost);
  yield;
  const requests: PlannedRequest[] = [];
  for (let end = starts.length; end > 0; end = from[end] ?? 0) {
    const first = from[end] ?? 0;
    const start = starts[first] ?? 0;
    requests.push({ start, count: (ends[end - 1] ?? 0) - start, spans: members.slice(first, end).flat() });
    if (requests.length % REQUESTS === 0) yield;
  }
  return { requests: requests.reverse(), torn };
}

/**
 * For every number of spans taken, where the last run of a cheapest partition of them begins. A run from `first` costs
 * what comes before it less `starts[first]`, plus what depends on its end alone: so the best beginning is the least
 * of a sliding window, kept in a queue of beginnings that grow in cost.
 */
function cheapestRuns(starts: readonly number[], ends: readonly number[], maxCount: number, maxGap: number, cost: ReadCost): Int32Array {
  const n = starts.length;
  const from = new Int32Array(n + 1);
  const queue = new Int32Array(n);
  const weight = new Float64Array(n);
  let [head, tail, before] = [0, 0, 0];
  for (let end = 1; end <= n; end++) {
    const own = end - 1;
    const start = starts[own] ?? 0;
    const last = ends[own] ?? 0;
    if (own > 0 && start - (ends[own - 1] ?? 0) > maxGap) head = tail;
    weight[own] = before - start * cost.perAddress;
    while (tail > head && (weight[queue[tail - 1] ?? 0] ?? 0) > (weight[own] ?? 0)) tail--;
    queue[tail++] = own;
    while (last - (starts[queue[head] ?? 0] ?? 0) > maxCount) head++;
    const first = queue[head] ?? own;
    from[end] = first;
    before = (weight[first] ?? 0) + cost.perRequest + last * cost.perAddress;
  }
  return from;
}

function cut(start: number, count: number, maxCount: number): Span[] {
  const pieces: Span[] = [];
  for (let done = 0; done < count; done += maxCount) pieces.push({ start: start + done, count: Math.min(maxCount, count - done) });
  return pieces;
}

function at(spans: readonly Span[], index: number): Span {
  const span = spans[index];
  if (!span) throw new RangeError(`no span ${index}`);
  return span;
}
