/** How far arrays and structures of OPC UA are listed by what is in them. */

/** An array may have so many elements as tags of their own. */
export const MOST_ELEMENTS = 2000;
/** Structures in structures. */
export const MOST_DEPTH = 16;

/** @param dimensions as the server declares them; 0 is of any length, and then there are none to list */
export function elementsOf(dimensions: unknown): readonly string[] {
  const lengths = ArrayBuffer.isView(dimensions) || Array.isArray(dimensions) ? Array.from(dimensions as ArrayLike<number>) : [];
  const count = lengths.reduce((all, length) => all * length, lengths.length > 0 ? 1 : 0);
  if (count === 0 || count > MOST_ELEMENTS) return [];
  let elements = [''];
  for (const length of lengths) elements = elements.flatMap((before) => Array.from({ length }, (_, i) => `${before}[${i}]`));
  return elements;
}
