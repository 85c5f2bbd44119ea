/** Sorts in steps, so that long lists leave others their turns: pieces first, then each two of them into one. */
const STEP = 1000;

export function* sorting<T>(list: readonly T[], compare: (a: T, b: T) => number): Generator<void, readonly T[]> {
  let runs: (readonly T[])[] = [];
  for (let from = 0; from < list.length; from += STEP) {
    runs.push(list.slice(from, from + STEP).sort(compare));
    yield;
  }
  while (runs.length > 1) {
    const longer: (readonly T[])[] = [];
    for (let i = 0; i < runs.length; i += 2) longer.push(yield* merging(runs[i] ?? [], runs[i + 1] ?? [], compare));
    runs = longer;
  }
  return runs[0] ?? [];
}

/** Two sorted lists as one; of equal ones those of the first come first. */
export function* merging<T>(left: readonly T[], right: readonly T[], compare: (a: T, b: T) => number): Generator<void, readonly T[]> {
  const merged: T[] = [];
  let [l, r] = [0, 0];
  while (l < left.length && r < right.length) {
    const [a, b] = [left[l] as T, right[r] as T];
    if (compare(a, b) <= 0) {
      merged.push(a);
      l++;
    } else {
      merged.push(b);
      r++;
    }
    if (merged.length % STEP === 0) yield;
  }
  for (; l < left.length; l++) merged.push(left[l] as T);
  for (; r < right.length; r++) merged.push(right[r] as T);
  return merged;
}
