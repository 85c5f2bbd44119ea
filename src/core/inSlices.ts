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

/** Lets everything that waits have its turn. */
export function nextTurn(): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, 0));
}
