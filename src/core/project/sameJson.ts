/** Whether two JSON values are the same, whatever order the fields of their objects came in. */
export function sameJson(a: unknown, b: unknown): boolean {
  return a === b || (typeof a === 'object' && typeof b === 'object' && sortedJson(a) === sortedJson(b));
}

/** JSON text that is equal for equal values. */
export function sortedJson(value: unknown): string | undefined {
  return JSON.stringify(value, (_key, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([x], [y]) => (x < y ? -1 : 1)))
      : part,
  );
}
