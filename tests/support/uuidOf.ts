/** A UUID that a test can name by a number. */
export function uuidOf(n: number): string {
  return `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`;
}
