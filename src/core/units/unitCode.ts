/** What a unit means, as engineers write it. */
import { unitTable, type KnownUnit } from './unitTable.ts';

/** Null for one that no code is known for, which is a word like any other. */
export const knownUnit = (text: string): KnownUnit | null => unitTable().known(text);

/** Whether values in it have a zero that was chosen: 20 °C and 20 °C are no 40 °C. */
export function isTemperature(code: string): boolean {
  return code === 'Cel' || code === '[degF]';
}
