/**
 * Long work in slices: between them everything else gets its turn, so that no reading of a controller has to wait. Of
 * several long works one has its slice in each turn of the loop.
 */
const SLICE_MS = 3;

export async function inSlices<T>(steps: Generator<void, T>): Promise<T> {
  let begun = performance.now();
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - begun > SLICE_MS) {
      await ownTurn();
      begun = performance.now();
    }
  }
}

/** Long works that wait for a turn, the first come first. */
const waiting: (() => void)[] = [];

function ownTurn(): Promise<void> {
  return new Promise((resolve) => {
    if (waiting.push(resolve) === 1) soon(nextOfWaiting);
  });
}

function nextOfWaiting(): void {
  waiting.shift()?.();
  if (waiting.length > 0) soon(nextOfWaiting);
}

/** The steps, until they are not wanted any more; null then. */
export function* untilStopped<T>(steps: Generator<void, T>, isStopped: () => boolean): Generator<void, T | null> {
  while (!isStopped()) {
    const step = steps.next();
    if (step.done) return step.value;
    yield;
  }
  return null;
}

/** The steps at once, where there are few. */
export function atOnce<T>(steps: Generator<void, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/** A turn of Node's loop passes at once; a timer's, which browsers have, takes a millisecond or more. */
const soon: (then: () => void) => void = 'setImmediate' in globalThis ? (then) => void setImmediate(then) : (then) => void setTimeout(then, 0);

/** Lets everything that waits have its turn. */
export function nextTurn(): Promise<void> {
  return new Promise((resolve) => soon(resolve));
}
