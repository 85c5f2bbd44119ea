/** Of plain ASCII nothing is composed or invisible. */
const PLAIN = /^[ -~]*$/;
const INVISIBLE = /\p{Cf}/gu;

/**
 * What two names are compared by: names that look the same are one, however their letters are composed and whatever
 * invisible characters stand in them (Unicode 15, general category Cf; UAX #15).
 */
export function nameKey(name: string): string {
  const visible = PLAIN.test(name) ? name : name.normalize('NFC').replace(INVISIBLE, '');
  return visible.trim().toLowerCase();
}
