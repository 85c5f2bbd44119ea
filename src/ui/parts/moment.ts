/** Moments in the reader's own locale, the month as a word so that day and month are never mistaken for each other. */
const DAY_AND_TIME = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'medium' });
const TIME = new Intl.DateTimeFormat(undefined, { timeStyle: 'medium' });

/** Such as 25 Nov 2026, 14:03:11. @param at a date, its ISO text, or milliseconds since 1970 */
export function dayAndTime(at: Date | string | number): string {
  return DAY_AND_TIME.format(new Date(at));
}

export function timeOfDay(at: Date | string | number): string {
  return TIME.format(new Date(at));
}
