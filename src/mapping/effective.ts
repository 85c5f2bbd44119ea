/** The settings that a tag really has, its device's and link's filled in. Pure: server and browser share it. */
import '@/core/units/ucumUnits.ts';
import { signalDigest } from '@/core/check/digest.ts';
import type { Device, Link, Tag, TagScale } from '@/core/project/entities.ts';
import { deviceIdOf, expressionField, expressionIn, pointIn } from '@/core/project/tagSource.ts';
import { accessOf, periodOf, type Inherited } from '@/core/project/inherited.ts';
import { checkExpression } from '@/core/expression/check.ts';
import { compile, type Program } from '@/core/expression/evaluate.ts';
import { parseExpression } from '@/core/expression/parse.ts';
import { idsIn } from '@/core/expression/references.ts';
import { KIND_WORDS, type ValueKind } from '@/core/expression/tree.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { scaleFor } from '@/core/scaling/durationScale.ts';
import { AS_IS, textsOf } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { unitRelation } from '@/core/units/unitLine.ts';
import { parseOrder, plainOrder, type ByteOrder } from '@/core/value/byteOrder.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { formatDataType, parseDataType, typeWordsOf, type DataType } from '@/core/value/dataType.ts';
import { readCodes, unavailableIn } from '@/core/value/unavailable.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { DriverDescription, PointSpec, Settings } from '@/drivers/contract.ts';
import { tagSpan, type TagSpan } from './tagSpan.ts';

export interface EffectiveSignal {
  /** Who reads it; null where its source is no device. */
  readonly driver: DriverDescription | null;
  /** Where it lies there; empty where its source is no device. */
  readonly canonical: string;
  /** What its driver asks of a point beside its address. */
  readonly settings: Settings;
  /** How often it is asked for, or a change of it wanted. */
  readonly periodMs: number;
  /** It is read only while something shows it or goes by it. */
  readonly isReadWhenShown: boolean;
  /** What its settings allow. */
  readonly access: 'read' | 'readWrite';
  /** They allow it, and the place does. */
  readonly writable: boolean;
  readonly def: SignalDefinition;
  /** How its value follows from others, null where it comes from somewhere. */
  readonly calculation: Calculation | null;
  /** How many places its address is moved follows from others; null where it stays. */
  readonly index: Calculation | null;
  readonly digest: string;
  /** All that identifies it at its source. */
  readonly origin: readonly string[];
  /** The memory that it takes at its source; null where that is none that can be drawn. */
  readonly span: TagSpan | null;
}

export interface Calculation {
  readonly program: Program;
  /** What its units make doubtful. */
  readonly doubts: readonly Problem[];
}

export interface TagSettings {
  readonly tag: Tag;
  readonly scale: TagScale | null;
  /** What the groups above it say. */
  readonly inherited: Inherited;
  /** Null where its source is no device. */
  readonly device: Device | null;
  readonly link: Link | null;
  /** A tag that its expression uses; null for one that is gone. */
  readonly used?: ((tagId: string) => UsedTag | null) | undefined;
}

/** A tag that an expression uses. */
export interface UsedTag {
  readonly tag: Tag;
  readonly signal: Result<EffectiveSignal>;
}

const NO_SETTINGS: Settings = {};

/** What the driver is asked for of a tag. */
export function pointOf(tagId: string, { canonical, settings, def }: Pick<EffectiveSignal, 'canonical' | 'settings' | 'def'>): PointSpec {
  return { key: tagId, canonical, settings, type: def.type };
}

/** Refuses what does not fit together, with the field as the place: `type`, `source.address`, `source.order`. */
export function effectiveSignal(settings: TagSettings): Result<EffectiveSignal> {
  const { tag, scale, inherited } = settings;
  const type = parseDataType(tag.type);
  if (!type.ok) return { ok: false, problem: { ...type.problem, place: 'type' } };
  const place = placeOf(settings, type.value);
  if (!place.ok) return place;
  const { driver, canonical, order, bit, origin } = place.value;

  const isPlain = typeWordsOf(type.value) === '' || (type.value.kind === 'integer' && type.value.coding === 'binary' && type.value.field === null);
  if (!driver?.bytes && !isPlain)
    return fail(
      'typed-layout',
      `Its source gives values, not bytes, so “${typeWordsOf(type.value)}” says nothing there.`,
      `Choose ${type.value.kind === 'text' ? `${type.value.name}(${type.value.room})` : type.value.name}.`,
      'type',
    );
  const codes = unavailableOf(settings, type.value);
  if (!codes.ok) return codes;
  const given = scaleFor(type.value, scale?.scale ?? null, tag.unit);
  if (!given.ok) return given;
  const isNumber = type.value.kind === 'integer' || type.value.kind === 'real';
  const names = type.value.kind !== 'real' && tag.names.length > 0 ? tag.names : isNumber ? textsOf(given.value) : [];
  const def: SignalDefinition = {
    type: type.value,
    order,
    bit,
    scale: isNumber ? given.value : AS_IS,
    unit: tag.unit,
    decimals: isNumber ? tag.decimals : null,
    range: isNumber && tag.rangeLow !== null && tag.rangeHigh !== null ? { low: tag.rangeLow, high: tag.rangeHigh } : null,
    ...(isNumber ? rangesOf(tag) : {}),
    ...(driver?.bytes ? {} : { isTyped: true }),
    ...(codes.value.length > 0 ? { unavailable: codes.value } : {}),
    ...(names.length > 0 && type.value.kind !== 'text' ? { names } : {}),
  };
  const { calculation, index } = place.value;
  const access = accessOf(tag, inherited);
  let digest: string | null = null;
  let span: TagSpan | null | undefined;
  return ok({
    driver,
    canonical,
    settings: pointIn(tag)?.settings ?? NO_SETTINGS,
    periodMs: periodOf(tag, inherited),
    // Where an index moves it, what it goes by has to be known all the same.
    isReadWhenShown: driver !== null && index === null && (inherited.reads ?? settings.device?.reads) === 'shown',
    access,
    writable: place.value.writable && access === 'readWrite',
    def,
    calculation,
    index,
    // Made when it is asked for: thousands of tags come in at once, and few are checked at once.
    get origin() {
      return origin();
    },
    get digest() {
      return (digest ??= signalDigest(origin(), def));
    },
    get span() {
      return span === undefined ? (span = tagSpan(tag.id, driver, canonical, def.type, settings.device?.dialect ?? NO_SETTINGS)) : span;
    },
  });
}

function rangesOf({ rawRange, displayRange, limits }: Tag): Pick<SignalDefinition, 'rawRange' | 'display' | 'limits'> {
  return { ...(rawRange ? { rawRange } : {}), ...(displayRange ? { display: displayRange } : {}), ...(limits ? { limits } : {}) };
}

/** Raw values of the type that are none. One of its own must be one that the type can have. */
function unavailableOf({ tag, inherited }: TagSettings, type: DataType): Result<readonly RawValue[]> {
  const said = tag.unavailable ?? inherited.unavailable;
  if (said === '') return NO_CODES;
  const codes = readCodes(said);
  if (!codes.ok) return { ok: false, problem: { ...codes.problem, place: 'unavailable' } };
  const meant = unavailableIn(type, codes.value);
  return meant.length > 0 || tag.unavailable === null
    ? ok(meant)
    : fail('unavailable', `A ${formatDataType(type)} never holds ${said}.`, 'Write a pattern as wide as the value, or leave it away.', 'unavailable');
}

const NO_CODES: Result<readonly RawValue[]> = ok([]);

/** Where a value comes from, and how it lies there. */
interface Place {
  readonly driver: DriverDescription | null;
  readonly canonical: string;
  readonly writable: boolean;
  readonly order: ByteOrder;
  readonly bit: number | null;
  readonly calculation: Calculation | null;
  readonly index: Calculation | null;
  /** All that identifies it at its source. */
  readonly origin: () => readonly string[];
}

function placeOf(settings: TagSettings, type: DataType): Result<Place> {
  const { tag, device, link, inherited } = settings;
  const { source } = tag;
  if (source.kind === 'local') return ok({ ...NOWHERE, writable: true, order: plainOrder(type), origin: () => ['local', tag.id] });
  if (source.kind === 'calculated') return calculatedPlace(settings, source.expression, type);
  if (!device || !link) return fail('gone', 'The device of the tag, or its link, is no longer there.');
  const driver = describeDriver(link.driver);
  if (!driver) return fail('driver', `No driver “${link.driver}” is known here.`, 'Choose a driver for the link.', 'driver');
  if (source.address === '')
    return fail('no-address', 'Its list gives it no address yet.', 'Import a list that has one, or give it one in Map.', 'source.address');
  const address = driver.notation.parse(inherited.prefix + source.address, type, device.dialect);
  if (!address.ok) return { ok: false, problem: { ...address.problem, place: 'source.address' } };
  const order = source.order === '' ? ok(driver.bytes?.defaultOrder(device.dialect, type) ?? plainOrder(type)) : parseOrder(source.order, type);
  if (!order.ok) return { ok: false, problem: { ...order.problem, place: 'source.order' } };
  const { canonical, writable, bit } = address.value;
  const index = indexOf(settings, driver, canonical, type);
  if (!index.ok) return index;
  // A proof belongs to a machine: where one says who it is, that is part of what was seen.
  const identity = device.identityTagId !== null && device.identity !== '' ? [`identity ${device.identity}`] : [];
  return ok({
    driver,
    canonical,
    writable,
    bit,
    order: order.value,
    calculation: null,
    index: index.value && index.value.calculation,
    origin: () => [...driver.origin(link.settings, device.settings, device.dialect, canonical), ...identity, ...(index.value?.origin() ?? [])],
  });
}

/** A place that is none. */
const NOWHERE = { driver: null, canonical: '', bit: null, calculation: null, index: null } as const;

/** By how much another tag moves the address; null for an address that stays. */
function indexOf(settings: TagSettings, driver: DriverDescription, canonical: string, type: DataType): Result<Expressed | null> {
  const { index } = pointIn(settings.tag) ?? {};
  if (index === undefined) return ok(null);
  if (!driver.indexed)
    return fail(
      'index',
      `Addresses of ${driver.label} cannot be moved by an index.`,
      'Leave the index empty, and make one tag a place.',
      'source.index',
    );
  const stays = driver.indexed.moved(canonical, 0, type, settings.device?.dialect ?? NO_SETTINGS);
  if (!stays.ok) return { ok: false, problem: { ...stays.problem, place: 'source.index' } };
  const expressed = expressedBy(settings, index);
  if (!expressed.ok) return expressed;
  const { kind } = expressed.value;
  return kind === null || kind === 'number'
    ? expressed
    : fail('index', `The index gives ${KIND_WORDS[kind]}, and an address is moved by a whole number.`, 'Choose a number.', 'source.index');
}

/** How deep calculated tags may stand on calculated tags. */
const DEEPEST_CALCULATION = 40;
const TOO_DEEP = 'expression-depth';

/** What an expression of a tag comes to. */
interface Expressed {
  readonly kind: ValueKind | null;
  readonly unit: string | null;
  readonly calculation: Calculation;
  /** All that identifies it: what it shows changes with what the tags show that it uses. */
  readonly origin: () => readonly string[];
}

function expressedBy({ tag, used }: TagSettings, expression: string): Result<Expressed> {
  const tree = parseExpression(expression, () => null);
  if (!tree.ok) return placedAt(tree.problem, tag);
  const inputs: Result<EffectiveSignal>[] = [];
  const checked = checkExpression(tree.value, (id) => {
    const input = used?.(id) ?? null;
    if (!input) return null;
    inputs.push(input.signal);
    return { kind: input.signal.ok ? kindOf(input.signal.value.def.type) : null, unit: input.tag.unit, name: input.tag.name };
  });
  if (!checked.ok) return placedAt(checked.problem, tag);
  const tooDeep = inputs.find((input) => !input.ok && input.problem.code === TOO_DEEP);
  if (tooDeep && !tooDeep.ok) return tooDeep;
  const { kind, unit, doubts } = checked.value;
  return ok({
    kind,
    unit,
    calculation: { program: compile(tree.value, { kind }), doubts },
    origin: () => [expression, ...inputs.map((input) => (input.ok ? input.value.digest : 'unknown'))],
  });
}

function placedAt(problem: Problem, tag: Tag): Result<never> {
  return { ok: false, problem: { ...problem, place: expressionField(tag) } };
}

function calculatedPlace(settings: TagSettings, expression: string, type: DataType): Result<Place> {
  const { tag } = settings;
  const expressed = expressedBy(settings, expression);
  if (!expressed.ok) return expressed;
  const { kind, unit, calculation, origin } = expressed.value;
  if (kind !== null && kind !== kindOf(type))
    return fail(
      'expression-type',
      `The expression gives ${KIND_WORDS[kind]}, and a ${formatDataType(type)} holds ${KIND_WORDS[kindOf(type)]}.`,
      kind === 'number' ? 'Choose REAL or another type for numbers.' : kind === 'boolean' ? 'Choose BOOL.' : 'Choose STRING with a length.',
      'type',
    );
  const asUnit: readonly Problem[] =
    unit !== null && unit !== '' && tag.unit !== '' && unitRelation(unit, tag.unit) !== 'same' ? [shownWrong(unit, tag.unit)] : [];
  return ok({
    ...NOWHERE,
    writable: false,
    order: plainOrder(type),
    calculation: { ...calculation, doubts: [...calculation.doubts, ...asUnit] },
    origin: () => ['calculated', ...origin()],
  });
}

function shownWrong(given: string, shown: string): Problem {
  const isDifference = given === `Δ${shown}`;
  return {
    code: 'units',
    message: `The expression gives ${isDifference ? `a difference of temperatures, ${given}` : given}, and the tag shows ${shown}.`,
    remedy: isDifference ? `Write ${given} or K: shown in another unit it would be wrong.` : 'Convert it, or correct the unit.',
    place: 'unit',
  };
}

function kindOf(type: DataType): ValueKind {
  return type.kind === 'boolean' || type.kind === 'text' ? type.kind : 'number';
}

export type AskSignal = (tag: Tag) => Result<EffectiveSignal>;

/** The project that signals are worked out in. */
export interface SignalContext {
  /** The same object as long as no scale, device, link or group has changed; where it is not told, each is asked for. */
  readonly stamp?: object;
  tag(id: string): Tag | null;
  device(id: string): Device | null;
  link(id: string): Link | null;
  scale(tagId: string): TagScale | null;
  inheritedBy(groupId: string | null): Inherited;
}

/** Effective signals kept as long as all that they are made of is the same (by identity: entities never change). */
export class EffectiveSignals {
  readonly #known = new Map<string, Known>();

  of(tag: Tag, project: SignalContext): Result<EffectiveSignal> {
    return expressionIn(tag) === null ? this.#plain(tag, project) : this.#using(tag, project, new Map(), 0);
  }

  /**
   * Asks for one tag after the other. Those that come in the order in which they were worked out need no looking up: of a
   * hundred thousand that is most of the time.
   */
  inTurn(project: SignalContext): AskSignal {
    const { stamp } = project;
    const known = this.#known.values();
    let next = known.next().value;
    return (tag) => {
      const found = next;
      if (found?.tag !== tag) return this.of(tag, project);
      next = known.next().value;
      return stamp !== undefined && found.stamp === stamp ? found.result : this.of(tag, project);
    };
  }

  #plain(tag: Tag, project: SignalContext): Result<EffectiveSignal> {
    const { stamp } = project;
    const known = this.#known.get(tag.id);
    if (known?.tag === tag && stamp !== undefined && known.stamp === stamp) return known.result;
    const scale = project.scale(tag.id);
    const inherited = project.inheritedBy(tag.groupId);
    const device = project.device(deviceIdOf(tag) ?? '');
    const link = device && project.link(device.linkId);
    const settings = { tag, scale, device, link, inherited };
    if (known && sameSettings(known, settings)) {
      known.stamp = stamp;
      return known.result;
    }
    const result = effectiveSignal(settings);
    this.#known.set(tag.id, { ...settings, stamp, result });
    return result;
  }

  /** @param seen what was worked out on the way here: tags may use each other many times over */
  #using(tag: Tag, project: SignalContext, seen: Map<string, UsedTag | null>, depth: number): Result<EffectiveSignal> {
    if (depth > DEEPEST_CALCULATION)
      return fail(
        TOO_DEEP,
        `It stands on itself, or on more than ${DEEPEST_CALCULATION} calculated tags one upon another.`,
        'Use fewer steps.',
        expressionField(tag),
      );
    const usedTag = (id: string): UsedTag | null => {
      const known = seen.get(id);
      if (known !== undefined) return known;
      const other = project.tag(id);
      const signal = other && (expressionIn(other) === null ? this.#plain(other, project) : this.#using(other, project, seen, depth + 1));
      const found = other && signal ? { tag: other, signal } : null;
      seen.set(id, found);
      return found;
    };
    const inputs = idsIn(expressionIn(tag) ?? '').map(usedTag);
    const scale = project.scale(tag.id);
    const inherited = project.inheritedBy(tag.groupId);
    const device = project.device(deviceIdOf(tag) ?? '');
    const link = device && project.link(device.linkId);
    const settings = { tag, scale, device, link, inherited };
    const known = this.#known.get(tag.id);
    if (known && sameSettings(known, settings) && sameInputs(known.inputs ?? [], inputs)) return known.result;
    const result = effectiveSignal({ ...settings, used: usedTag });
    this.#known.set(tag.id, { ...settings, inputs, result });
    return result;
  }

  forget(tagId: string): void {
    this.#known.delete(tagId);
  }
}

function sameSettings(known: Known, { tag, scale, device, link, inherited }: Omit<TagSettings, 'used'>): boolean {
  return known.tag === tag && known.scale === scale && known.device === device && known.link === link && known.inherited === inherited;
}

interface Known extends Omit<TagSettings, 'used'> {
  /** Of a tag that has an expression. */
  readonly inputs?: readonly (UsedTag | null)[];
  /** Of the project in which it was last found to be right. */
  stamp?: object | undefined;
  readonly result: Result<EffectiveSignal>;
}

/** A name may change without a word: it is not part of what is worked out. */
function sameInputs(before: readonly (UsedTag | null)[], now: readonly (UsedTag | null)[]): boolean {
  return (
    before.length === now.length &&
    before.every((input, i) => {
      const other = now[i];
      return input === other || (input && other ? input.signal === other.signal && input.tag.unit === other.tag.unit : false);
    })
  );
}
