/** Moments in the reader's own locale, the month as a word so that day and month are never mistaken for each other. */
const DAY_AND_TIME: Intl.DateTimeFormatOptions = { dateStyle: 'medium', timeStyle: 'medium' };
const TIME: Intl.DateTimeFormatOptions = { timeStyle: 'medium' };
const EXACT_TIME: Intl.DateTimeFormatOptions = { hour: '2-digit', minute: '2-digit', second: '2-digit', fractionalSecondDigits: 3, hour12: false };

const made = new Map<Intl.DateTimeFormatOptions, Intl.DateTimeFormat>();

/** Made when it is first asked for: each takes tens of milliseconds, in which a page would not open. */
function formatted(options: Intl.DateTimeFormatOptions, at: Date): string {
  const format = made.get(options) ?? new Intl.DateTimeFormat(undefined, options);
  made.set(options, format);
  return format.format(at);
}

/** Such as 25 Nov 2026, 14:03:11. @param at a date, its ISO text, or milliseconds since 1970 */
export function dayAndTime(at: Date | string | number): string {
  return formatted(DAY_AND_TIME, new Date(at));
}

export function timeOfDay(at: Date | string | number): string {
  return formatted(TIME, new Date(at));
}

/** To the millisecond, such as 14:03:11.250. */
export function exactTimeOfDay(at: number): string {
  return formatted(EXACT_TIME, new Date(at));
}
