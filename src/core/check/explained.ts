/** An explanation as it is told: in words, with what it would show and what would cure it. */
import { NO_VALUE_TEXT, type SignalDefinition } from '../signal.ts';
import { stepsOf, type Scale } from '../scaling/scale.ts';
import { formatDataType } from '../value/dataType.ts';
import type { Candidate, Explanation } from './mistakes/explanations.ts';
import type { MistakeKind } from './mistakes/mistake.ts';
import { mistakesOf, type Cells } from './mistakes/mistakeSpace.ts';
import { agreesWith, type Observation } from './mistakes/observation.ts';
import { markBy, textBy, wayOf, type Sight, type Way } from './mistakes/way.ts';
import type { TellingValue } from './mistakes/tellingValues.ts';

export interface ToldExplanation {
  readonly kinds: readonly MistakeKind[];
  /** `words swapped (CDAB) and a scale 10 times larger` */
  readonly words: string;
  /** What it shows at the newest thing seen, with its unit. */
  readonly text: string;
  /** Others that no value tells from it. */
  readonly alike: readonly string[];
  /** The settings of the tag that make the mapping so; null where it has none for it. */
  readonly cure: Cure | null;
  /** What it would show of the value that is to be looked at next; null without one. */
  readonly predicts: string | null;
}

/** Settings as they would be entered; what is absent stays. */
export interface Cure {
  /** Cells that the address moves by. */
  readonly moveBy: number;
  /** Another point of the device, by its address. */
  readonly address?: string;
  /** The device has no such point: there is nothing to read. */
  readonly removes?: true;
  readonly type?: string;
  readonly order?: string;
  readonly bit?: number;
  readonly scale?: Scale;
  readonly decimals?: number;
}

const MOST_ALIKE = 4;

export function wordsOf({ mistakes }: Pick<Candidate, 'mistakes'>): string {
  return mistakes.map(({ words }) => words).join(' and ');
}

export function told(
  def: SignalDefinition,
  explanation: Explanation,
  sight: Sight,
  next: { readonly value: TellingValue; readonly sight: Sight } | null,
  cellBytes: number,
): ToldExplanation {
  const unit = def.unit === '' ? '' : ` ${def.unit}`;
  return {
    kinds: explanation.mistakes.map(({ kind }) => kind),
    words: wordsOf(explanation),
    text: `${textBy(explanation.way, sight)}${unit}`,
    alike: explanation.alike.slice(0, MOST_ALIKE).map(wordsOf),
    cure: [explanation, ...explanation.alike].map(({ way }) => cureOf(def, way, cellBytes)).find((cure) => cure !== null) ?? null,
    // What another point will hold nobody knows.
    predicts: next && explanation.way.place === null ? `${textBy(explanation.way, next.sight)}${unit}` : null,
  };
}

/** Said of a tag whose device answers that it has no such point, and does not list it either. */
export const GONE_EXPLANATION: ToldExplanation = {
  kinds: ['place'],
  words: 'the device has no such point',
  text: NO_VALUE_TEXT,
  alike: [],
  cure: { moveBy: 0, removes: true },
  predicts: null,
};

/** What a tag has to be set to, to be read that way; null where no setting of it does that. */
export function cureOf(def: SignalDefinition, way: Way, cellBytes: number): Cure | null {
  const read = way.def;
  const steps = stepsOf(read.scale);
  if (way.bits !== 0) {
    // Bits that are lost are lost in the value too; to the left the value is a multiple.
    if (way.bits < 0) return null;
    return { ...settingsOf(def, way, cellBytes), scale: withFirst({ kind: 'gain', gain: 2 ** way.bits, offset: 0 }, read.scale) };
  }
  if (way.point !== 0)
    return { ...settingsOf(def, way, cellBytes), scale: withLast(read.scale, way.point), decimals: Math.max(0, (def.decimals ?? 0) - way.point) };
  if (steps.length > 8) return null;
  return settingsOf(def, way, cellBytes);
}

function settingsOf(def: SignalDefinition, { def: read, at, place }: Way, cellBytes: number): Cure {
  const [was, is] = [formatDataType(def.type), formatDataType(read.type)];
  return {
    moveBy: at === 0 ? 0 : at / cellBytes,
    ...(place === null ? {} : { address: place }),
    ...(was === is ? {} : { type: is }),
    ...(def.order === read.order ? {} : { order: read.order }),
    ...(def.bit === read.bit || read.bit === null ? {} : { bit: read.bit }),
    ...(read.scale === def.scale ? {} : { scale: read.scale }),
  };
}

function withFirst(step: Extract<Scale, { kind: 'gain' }>, scale: Scale): Scale {
  const steps = [step, ...stepsOf(scale)];
  return steps.length === 1 ? step : { kind: 'chain', steps };
}

function withLast(scale: Scale, exponent: number): Scale {
  const steps = stepsOf(scale);
  return steps.length === 0 ? { kind: 'power', exponent } : { kind: 'chain', steps: [...steps, { kind: 'power', exponent }] };
}

/**
 * Single mistakes that show just what the mapping shows: what was seen says nothing against them.
 * @param isWide whether a tolerance was allowed: then neither does it against any that lies within
 */
export function notRuledOut(
  def: SignalDefinition,
  candidates: readonly Candidate[],
  seen: readonly Observation[],
  isWide = false,
): readonly string[] {
  const ours = wayOf(def);
  const marks = seen.map(({ sight }) => markBy(ours, sight));
  const isOpen = ({ way }: Candidate): boolean => seen.every((each, i) => markBy(way, each.sight) === marks[i] || (isWide && agreesWith(way, each)));
  return candidates.filter(isOpen).map(wordsOf);
}

const MOST_LIKELY = 4;

/** What is shown, and what the likeliest mistakes would show that are told from it; each once. */
export function likelyTexts(def: SignalDefinition, cells: Cells | null, sight: Sight): readonly string[] {
  const ours = wayOf(def);
  const texts = [textBy(ours, sight)];
  if (def.type.kind === 'boolean' || (def.names ?? []).length > 0) return texts;
  const likely = mistakesOf(ours, cells)
    .flat()
    .sort((a, b) => a.mistake.cost - b.mistake.cost);
  for (const { way } of likely) {
    const text = textBy(way, sight);
    if (text !== NO_VALUE_TEXT && !texts.includes(text) && text.length <= LONGEST_LIKELY) texts.push(text);
    if (texts.length === MOST_LIKELY) break;
  }
  return texts;
}
const LONGEST_LIKELY = 12;
