/** How a write to a tag is confirmed. */
import { mixed, type AnyObject, type MixedSchema } from 'yup';
import { fail, ok, type Result } from '../result.ts';

export type Confirm =
  /** The tag itself is read back and must hold what was written. */
  | { readonly kind: 'equal' }
  /** A command that clears itself: nothing is read back. */
  | { readonly kind: 'none' }
  /** Read back, and may be off by this much in engineering units: a controller that limits or rounds. */
  | { readonly kind: 'tolerance'; readonly by: number }
  /** Another tag follows: it must come within this much of the value that was written. */
  | { readonly kind: 'follows'; readonly tagId: string; readonly by: number };

export const EQUAL: Confirm = { kind: 'equal' };
/** How long a tag that follows may take. */
export const FOLLOW_MS = 5000;

export function confirmSchema(): MixedSchema<Confirm | undefined, AnyObject> {
  return mixed<Confirm>((value): value is Confirm => isConfirm(value));
}

function isConfirm(value: unknown): value is Confirm {
  if (typeof value !== 'object' || value === null || !('kind' in value)) return false;
  const fields = Object.keys(value).sort().join(' ');
  const by = 'by' in value && typeof value.by === 'number' && Number.isFinite(value.by) && value.by >= 0;
  switch (value.kind) {
    case 'equal':
    case 'none':
      return fields === 'kind';
    case 'tolerance':
      return fields === 'by kind' && by;
    case 'follows':
      return fields === 'by kind tagId' && by && 'tagId' in value && typeof value.tagId === 'string' && /^[0-9a-f-]{36}$/i.test(value.tagId);
    default:
      return false;
  }
}

/** As it is written in the map after RW: nothing for equal, `none`, `±0.5`, `follows fan_speed ±5`. */
export function confirmText(confirm: Confirm, nameOf: (tagId: string) => string | null): string {
  switch (confirm.kind) {
    case 'equal':
      return '';
    case 'none':
      return 'none';
    case 'tolerance':
      return `±${confirm.by}`;
    case 'follows':
      return `follows ${nameOf(confirm.tagId) ?? '?'} ±${confirm.by}`;
  }
}

/** The inverse of {@link confirmText}. */
export function parseConfirm(text: string, idOf: (name: string) => string | null): Result<Confirm> {
  const plain = text.trim();
  if (plain === '' || /^equal$/i.test(plain)) return ok(EQUAL);
  if (/^none$/i.test(plain)) return ok({ kind: 'none' });
  const tolerance = /^(?:±|\+-)\s*(\d+(?:\.\d+)?)$/.exec(plain);
  if (tolerance) return ok({ kind: 'tolerance', by: Number(tolerance[1]) });
  const follows = /^follows\s+(\S.*?)(?:\s*(?:±|\+-)\s*(\d+(?:\.\d+)?))?$/i.exec(plain);
  if (follows) {
    const tagId = idOf(follows[1] ?? '');
    return tagId === null
      ? fail('confirm', `There is no tag “${follows[1] ?? ''}” that could follow.`, 'Write the name of a tag of this project.')
      : ok({ kind: 'follows', tagId, by: Number(follows[2] ?? 0) });
  }
  return fail('confirm', `“${plain.slice(0, 40)}” is no way to confirm a write.`, 'Write equal, none, ±0.5 or follows fan_speed ±5.');
}
