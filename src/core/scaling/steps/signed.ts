/** A number as it stands in a formula: in brackets where it is below zero. */
export function signed(value: number): string {
  return value < 0 ? `(${value})` : String(value);
}
