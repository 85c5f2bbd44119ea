/** Moments in the reader's own locale, the month as a word so that day and month are never mistaken for each other. */
const DAY_AND_TIME = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'medium' });
const TIME = new Intl.DateTimeFormat(undefined, { timeStyle: 'medium' });

const EXACT_TIME = new Intl.DateTimeFormat(undefined, {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  fractionalSecondDigits: 3,
  hour12: false,
});

/** Such as 25 Nov 2026, 14:03:11. @param at a date, its ISO text, or milliseconds since 1970 */
export function dayAndTime(at: Date | string | number): string {
  return DAY_AND_TIME.format(new Date(at));
}

export function timeOfDay(at: Date | string | number): string {
  return TIME.format(new Date(at));
}

/** To the millisecond, such as 14:03:11.250. */
export function exactTimeOfDay(at: number): string {
  return EXACT_TIME.format(new Date(at));
}
