/** A measured figure against what was promised; `atMost` where small is good. */
export interface Figure {
  readonly name: string;
  readonly ratio: number;
  readonly wanted: number;
  readonly atMost?: boolean;
  readonly detail: string;
}

export function isMet({ ratio, wanted, atMost }: Figure): boolean {
  return atMost ? ratio <= wanted : ratio >= wanted;
}
