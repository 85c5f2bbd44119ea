/**
 * Whether failed checks prove that a scale is wrong by a factor. One value proves none: some factor brings any number near any
 * other. Two values of the witness, further apart than the comparison can tell, that the same factor explains do.
 */
import type { Suggestion } from './explain.ts';

interface FailedCheck {
  /** Digest of the signal path that was checked. */
  readonly digest: string;
  readonly seen: number;
  readonly factors: readonly string[];
}

export const SCALE_UNPROVEN = 'A factor would explain it, and one value proves no factor: check again at another value.';

export class FactorEvidence {
  readonly #failed = new Map<string, FailedCheck>();

  /**
   * @param seen what the witness said, in engineering units
   * @param near how far from it the comparison looks
   * @returns the suggestions that may be offered, and what is said of a factor that is not proven
   */
  weigh(
    tagId: string,
    digest: string,
    seen: number,
    near: number,
    suggestions: readonly Suggestion[],
  ): { readonly suggestions: readonly Suggestion[]; readonly unproven: string | null } {
    const isScale = ({ setting }: Suggestion): boolean => setting === 'scale';
    const earlier = this.#failed.get(tagId);
    const isAnother = earlier?.digest === digest && Math.abs(earlier.seen - seen) > 2 * near;
    const offered = suggestions.filter((s) => !isScale(s) || (isAnother && earlier.factors.includes(s.value)));
    // The first value stays until another one is seen: the same one again says nothing more.
    if (earlier?.digest !== digest || isAnother)
      this.#failed.set(tagId, { digest, seen, factors: suggestions.filter(isScale).map(({ value }) => value) });
    return { suggestions: offered, unproven: offered.length === 0 && suggestions.some(isScale) ? SCALE_UNPROVEN : null };
  }

  /** The tag agreed with its witness: what came before was of another state of things. */
  forget(tagId: string): void {
    this.#failed.delete(tagId);
  }
}
