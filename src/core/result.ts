/** What went wrong, in words a person can act on. Everything that is not a bug is told this way. */
export interface Problem {
  /** Stable word for programs, such as `address-out-of-range`. */
  readonly code: string;
  /** One plain sentence: what is wrong. */
  readonly message: string;
  /** One plain sentence: what to try. */
  readonly remedy?: string;
  /** Where: a field, a row and column, a link or an address. */
  readonly place?: string;
  /** The setting of the device that would accept what is refused, by its field. */
  readonly setting?: string;
  /** What could be entered instead, as it would be entered. */
  readonly instead?: readonly string[];
}

/** A value, or the problem that kept us from having it. */
export type Result<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

export function ok<T>(value: T): Result<T> {
  return { ok: true, value };
}

export function fail(code: string, message: string, remedy?: string, place?: string): { readonly ok: false; readonly problem: Problem } {
  return { ok: false, problem: { code, message, ...(remedy ? { remedy } : {}), ...(place ? { place } : {}) } };
}
