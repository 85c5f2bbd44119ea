/** Names of a value's states, as an enumeration of the controller's program gives them. */
import { CONTROL_CHARACTER } from '../patterns.ts';
import { fail, ok, type Result } from '../result.ts';

export interface ValueName {
  readonly value: number;
  readonly name: string;
}
export type ValueNames = readonly ValueName[];

export const MAX_VALUE_NAMES = 200;
export const MAX_VALUE_NAME = 60;

/** Values and names may each stand once: a name that means two values can be written by nobody. */
export function checkNames(names: ValueNames): Result<ValueNames> {
  if (names.length > MAX_VALUE_NAMES) return fail('names', `At most ${MAX_VALUE_NAMES} values can have names.`);
  const [values, words] = [new Set<number>(), new Set<string>()];
  for (const { value, name } of names) {
    if (!Number.isSafeInteger(value)) return fail('names', `${value} is no whole number, so it can have no name.`);
    if (name.trim() !== name || name === '' || name.length > MAX_VALUE_NAME || CONTROL_CHARACTER.test(name))
      return fail('names', `The name of ${value} needs 1 to ${MAX_VALUE_NAME} characters, without spaces at its ends.`);
    if (values.has(value)) return fail('names', `The value ${value} has two names.`, 'Leave one of them out.');
    if (words.has(name.toLowerCase())) return fail('names', `“${name}” names two values.`, 'Leave one of them out.');
    values.add(value);
    words.add(name.toLowerCase());
  }
  return ok(names);
}

/** `0=off; 1=heating`, also with a colon or commas, and `(off, heating:=5)` as IEC 61131-3 writes an enumeration. */
export function parseNames(text: string): Result<ValueNames> {
  const inside = text.trim().replace(/^[([{](.*)[)\]}]$/s, '$1');
  if (inside.trim() === '') return ok([]);
  const names: ValueName[] = [];
  let next = 0;
  for (const part of inside.split(/[;,|\n]/)) {
    const plain = part.trim();
    if (plain === '') continue;
    const numbered = /^(-?\d{1,15})\s*[=:]\s*(.*)$/.exec(plain);
    const { name, value } = numbered ? { name: numbered[2] ?? '', value: Number(numbered[1]) } : (assignedIn(plain) ?? { name: plain, value: next });
    names.push({ value, name: name.trim() });
    next = value + 1;
  }
  return checkNames(names);
}

/** `name := 5` */
function assignedIn(text: string): ValueName | null {
  const at = text.lastIndexOf(':=');
  const [name, value] = [text.slice(0, at).trim(), text.slice(at + 2).trim()];
  return at > 0 && name !== '' && /^-?\d{1,15}$/.test(value) ? { name, value: Number(value) } : null;
}

/** The inverse of {@link parseNames}. */
export function formatNames(names: ValueNames): string {
  return names.map(({ value, name }) => `${value}=${name}`).join('; ');
}

export function nameOf(names: ValueNames, value: number | bigint | boolean): string | null {
  const count = typeof value === 'boolean' ? Number(value) : value;
  return names.find((n) => (typeof count === 'bigint' ? BigInt(n.value) === count : n.value === count))?.name ?? null;
}

export function valueNamed(names: ValueNames, name: string): number | null {
  const plain = name.trim().toLowerCase();
  return names.find((n) => n.name.toLowerCase() === plain)?.value ?? null;
}
