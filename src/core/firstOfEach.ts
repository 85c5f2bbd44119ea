/** Of items with the same key the first, in their order. */
export function firstOfEach<T>(items: readonly T[], keyOf: (item: T) => unknown): readonly T[] {
  const known = new Set<unknown>();
  return items.filter((item) => {
    const key = keyOf(item);
    if (known.has(key)) return false;
    known.add(key);
    return true;
  });
}
