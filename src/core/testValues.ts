/** What a tag shows at the raw values that tell most: ends and quarters of its span, its limits, and where it has no value. */
import { LIMIT_KEYS, LIMIT_WORDS } from './ranges/limits.ts';
import { drawnSpan, healthMarks } from './scaling/scale.ts';
import { followWire, planWrite, type SignalDefinition, unjudged } from './signal.ts';
import type { RawValue } from './value/codec.ts';
import { qualityInWords } from './value/quality.ts';

export interface TestValue {
  readonly what: string;
  readonly raw: RawValue;
  /** As the tag shows it. */
  readonly text: string;
  /** Empty for a good value. */
  readonly why: string;
}

const PARTS = [0, 0.25, 0.5, 0.75, 1] as const;

/** Empty for a tag that holds no number. Each raw value is told once. */
export function testValues(def: SignalDefinition): readonly TestValue[] {
  const { type, range, rawRange, display, limits } = def;
  if (type.kind !== 'integer' && type.kind !== 'real') return [];
  const found: TestValue[] = [];
  const add = (what: string, raw: RawValue): void => {
    if (found.some((other) => other.raw === raw)) return;
    const { text, quality } = followWire(def, { kind: 'typed', value: raw });
    found.push({ what, raw, text, why: quality.level === 'good' ? '' : qualityInWords(quality) });
  };
  const span = drawnSpan(def.scale);
  if (span) for (const part of PARTS) add(`${part * 100} % of the raw span`, rawAt(def, span[0] + (span[1] - span[0]) * part));
  const asked: (readonly [what: string, value: number])[] = [];
  if (range) asked.push(['expected from', range.low], ['expected to', range.high]);
  if (display) asked.push(['display from', display.low], ['display to', display.high]);
  for (const key of LIMIT_KEYS) if (limits && limits[key] !== null) asked.push([`limit ${LIMIT_WORDS[key]}`, limits[key]]);
  for (const [what, value] of asked) {
    const plan = planWrite(unjudged(def), value);
    if (plan.ok) add(what, plan.value.raw);
  }
  if (rawRange) {
    add('raw from', rawAt(def, rawRange.low));
    add('raw to', rawAt(def, rawRange.high));
  }
  for (const { raw, what } of healthMarks(def.scale)) if (isHeld(def, raw)) add(what, rawAt(def, raw));
  if (type.kind === 'integer') {
    add('least that the type holds', rawAt(def, type.min));
    add('most that the type holds', rawAt(def, type.max));
    add('zero', rawAt(def, 0));
  }
  for (const raw of def.unavailable ?? []) add('not available', raw);
  return found;
}

function isHeld({ type }: SignalDefinition, raw: number): boolean {
  return type.kind !== 'integer' || (raw >= Number(type.min) && raw <= Number(type.max));
}

/** A raw value as the type holds it. */
function rawAt({ type }: SignalDefinition, value: number | bigint): RawValue {
  if (type.kind !== 'integer') return Number(value);
  const whole = typeof value === 'bigint' ? value : BigInt(Math.round(value));
  return type.isWide ? whole : Number(whole);
}
