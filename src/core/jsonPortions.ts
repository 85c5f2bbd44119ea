/** JSON text of something large, a portion at a time: text of many megabytes at once would hold everything else up. */

/** Elements of an array that go into one portion. */
const PORTION = 100;

/** Whether the value is an object that holds an array of more than one portion. */
export function isLarge(value: unknown): value is Readonly<Record<string, unknown>> {
  return (
    typeof value === 'object' && value !== null && !Array.isArray(value) && Object.values(value).some((v) => Array.isArray(v) && v.length > PORTION)
  );
}

/** Portions that together are `JSON.stringify(value)`: arrays that are fields of the object are taken apart. */
export function* jsonPortions(value: Readonly<Record<string, unknown>>): Generator<string> {
  let before = '{';
  for (const [key, field] of Object.entries(value)) {
    if (field === undefined) continue;
    const start = `${before}${JSON.stringify(key)}:`;
    before = ',';
    if (!Array.isArray(field)) {
      yield start + JSON.stringify(field);
      continue;
    }
    yield start;
    yield* arrayPortions(field);
  }
  yield before === '{' ? '{}' : '}';
}

/** The same for an array. */
export function* arrayPortions(list: readonly unknown[]): Generator<string> {
  let before = '[';
  for (let from = 0; from < list.length; from += PORTION) {
    yield before + JSON.stringify(list.slice(from, from + PORTION)).slice(1, -1);
    before = ',';
  }
  yield before === '[' ? '[]' : ']';
}
