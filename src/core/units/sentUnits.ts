/** What may be asked of some units, on its way to where UCUM is not. */
import type { Line } from '../scaling/line.ts';
import { answerSentUnits, unitTable, type KnownUnit, type UnitTable } from './unitTable.ts';

export interface SentUnits {
  readonly known: readonly (readonly [text: string, unit: KnownUnit | null])[];
  /** From one to another, as fractions; those that are not there measure different things. */
  readonly lines: readonly (readonly [from: string, to: string, p: string, q: string, r: string])[];
}

/** @param texts of all units that are there; differences of temperatures come with temperatures */
export function unitsFor(texts: Iterable<string>): SentUnits {
  const table = unitTable();
  const all = new Set<string>();
  for (const text of texts) all.add(text).add(`Δ${text}`);
  const known = [...all].map((text) => [text, table.known(text)] as const);
  const units = new Map(known.flatMap(([, unit]) => (unit ? [[keyOf(unit), unit] as const] : [])));
  const lines: SentUnits['lines'][number][] = [];
  for (const [from, one] of units)
    for (const [to, other] of units) {
      const line = table.line(one, other);
      if (line) lines.push([from, to, String(line.p), String(line.q), String(line.r)]);
    }
  return { known, lines };
}

const keyOf = ({ code, isDifference }: KnownUnit): string => `${isDifference ? 'Δ' : ''}${code}`;

const known = new Map<string, KnownUnit | null>();
const lines = new Map<string, Line>();
/** Of all that was taken up. */
export const SENT: UnitTable = {
  known(text) {
    const unit = known.get(text);
    if (unit === undefined) throw new Error(`The unit “${text}” did not come with the panel.`);
    return unit;
  },
  line: (from, to) => lines.get(`${keyOf(from)} ${keyOf(to)}`) ?? null,
};

/** Takes up what was sent, beside what came before: what was drawn with that may be drawn again. */
export function takeUnits(sent: SentUnits): void {
  for (const [text, unit] of sent.known) known.set(text, unit);
  for (const [from, to, p, q, r] of sent.lines) lines.set(`${from} ${to}`, { p: BigInt(p), q: BigInt(q), r: BigInt(r) });
  answerSentUnits(SENT);
}
