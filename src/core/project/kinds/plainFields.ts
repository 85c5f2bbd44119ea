/** Whether a value is what a field may hold, told quickly; a schema says the same in far more time, and says what is wrong. */
import { CONTROL_CHARACTER, UUID } from '../../patterns.ts';

export const isText = (value: unknown, most: number): value is string =>
  typeof value === 'string' && value.length <= most && !CONTROL_CHARACTER.test(value);
export const isTrimmed = (text: string): boolean => text !== '' && text.trim() === text;
export const isId = (value: unknown): value is string => typeof value === 'string' && UUID.test(value);
export const isWhole = (value: unknown, low: number, high: number): boolean =>
  Number.isInteger(value) && Number(value) >= low && Number(value) <= high;
export const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

export function countOfFields(value: object): number {
  let fields = 0;
  for (const _ in value) fields++;
  return fields;
}
