/**
 * Who is asked about units. UCUM knows them all, and is large: a glass is sent what it may come to ask, and asks that. A program that
 * works on units imports `ucumUnits.ts` once, which answers from then on.
 */
import type { Line } from '../scaling/line.ts';

export interface KnownUnit {
  /** In UCUM. */
  readonly code: string;
  /** Written with Δ: a difference of temperatures. */
  readonly isDifference: boolean;
}

export interface UnitTable {
  /** What a unit means; null for one that no code is known for, which is a word like any other. */
  known(text: string): KnownUnit | null;
  /** What a value in one unit is in another; null where they measure different things. */
  line(from: KnownUnit, to: KnownUnit): Line | null;
}

let whole: UnitTable | null = null;
let sent: UnitTable | null = null;

export function answerUnits(table: UnitTable): void {
  whole = table;
}

/** A table of those units alone that are asked for; the whole one goes before it. */
export function answerSentUnits(table: UnitTable): void {
  sent = table;
}

/** @throws Error where nobody answers: a number must not stand beside a unit that nobody has looked up */
export function unitTable(): UnitTable {
  const table = whole ?? sent;
  if (!table) throw new Error('Nobody here knows units: import core/units/ucumUnits.ts.');
  return table;
}
