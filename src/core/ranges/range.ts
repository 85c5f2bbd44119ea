/** Two ends. */
export interface Range {
  readonly low: number;
  readonly high: number;
}

export function isInside({ low, high }: Range, value: number | bigint): boolean {
  return value >= low && value <= high;
}
