/**
 * What two names are compared by: names that look the same are one, however their letters are composed and whatever
 * invisible characters stand in them (Unicode 15, general category Cf; UAX #15).
 */
export function nameKey(name: string): string {
  return name
    .normalize('NFC')
    .replace(/\p{Cf}/gu, '')
    .trim()
    .toLowerCase();
}
