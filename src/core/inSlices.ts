/** Long work in slices: between them everything else gets its turn, so that no reading of a controller has to wait. */
const SLICE_MS = 5;

export async function inSlices<T>(steps: Generator<void, T>): Promise<T> {
  let begun = performance.now();
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - begun > SLICE_MS) {
      await nextTurn();
      begun = performance.now();
    }
  }
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
