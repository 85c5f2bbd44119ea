/** Another point of the same device in place of the one that is meant, where points have names: a wrong index, a wrong branch, another program's. */
import { formatDataType, type DataType } from '../../value/dataType.ts';
import type { WireValue } from '../../signal.ts';
import type { Mistaken } from './mistakeSpace.ts';
import { markBy, shownBy, wayOf, type Sight, type Way } from './way.ts';
import type { SignalDefinition } from '../../signal.ts';

/** A point of the same device, and what it held at nearly the same moment. */
export interface OtherPoint {
  /** As it is told to people. */
  readonly name: string;
  /** As the device declares it. */
  readonly type: DataType;
  readonly wire: WireValue;
}

/** Points by their address; the tag's own may be among them, with the type that the device declares. */
export interface OtherPoints {
  readonly own: string;
  /** Whether the device lists the tag's own point; null where it lists none, or not all of them came. */
  readonly listsOwn: boolean | null;
  readonly points: ReadonlyMap<string, OtherPoint>;
}

/** A whole number for a real, or the other way round. */
const OTHER_KIND = 0.4;
/** States are alike everywhere: only the likeliest are worth a look. */
const MOST_STATES = 6;

/** Every point that was seen each time. */
export function otherPointsOf(ours: Way, sights: readonly Sight[]): readonly Mistaken[] {
  const others = sights.map((sight) => sight.others ?? null);
  const [first] = others;
  if (!first) return [];
  const found: Mistaken[] = [];
  for (const [address, { name, type }] of first.points) {
    if (!others.every((each) => each?.points.has(address))) continue;
    const way: Way = { ...ours, place: address, def: { ...ours.def, type } };
    const isOwn = address === first.own;
    if (isOwn && formatDataType(type) === formatDataType(ours.def.type)) continue;
    found.push(
      isOwn
        ? { mistake: { kind: 'type', words: `${formatDataType(type)}, as the device declares it`, cost: 0.9 }, way }
        : {
            mistake: {
              kind: 'place',
              words: `${name} in its place`,
              cost: costOf(first.own, address) + (type.kind === ours.def.type.kind ? 0 : OTHER_KIND),
            },
            way,
          },
    );
  }
  found.sort((a, b) => a.mistake.cost - b.mistake.cost);
  const { kind } = ours.def.type;
  return kind === 'boolean' || ours.def.names ? found.slice(0, MOST_STATES) : found;
}

/**
 * Points that hold the same now, so that nothing tells which of them is read: ones whose addresses differ in their numbers alone, and for
 * reals any other, unless it is a whole number, which many hold.
 */
export function alikeNow(def: SignalDefinition, sight: Sight): readonly string[] {
  const { others } = sight;
  if (!others || def.type.kind === 'boolean' || def.type.kind === 'text' || def.names) return [];
  const ours = wayOf(def);
  const mark = markBy(ours, sight);
  const { number } = shownBy(ours, sight);
  const isRare = def.type.kind === 'real' && number !== null && !Number.isInteger(number);
  return [...others.points].flatMap(([address, { name, type }]) => {
    const isMeant = isSibling(others.own, address) || (isRare && address !== others.own && type.kind === 'real');
    return isMeant && markBy({ ...ours, place: address, def: { ...ours.def, type } }, sight) === mark ? [name] : [];
  });
}

/** Whether two addresses differ in nothing but their numbers. */
export function isSibling(own: string, other: string): boolean {
  return own !== other && withoutNumbers(own) === withoutNumbers(other);
}

const withoutNumbers = (address: string): string => address.replace(/\d+/g, '#');

/** A number that is one off is likelier than another branch: 1 to 2. */
function costOf(own: string, other: string): number {
  return isSibling(own, other) ? 1 + Math.min(SIBLING_SPAN, FARTHER * (numbersApart(own, other) - 1)) : 2 - likeness(own, other);
}

const FARTHER = 0.02;
const SIBLING_SPAN = 0.3;

/** By how much the numbers in two addresses differ, all together. */
function numbersApart(own: string, other: string): number {
  const [mine, theirs] = [own.match(/\d+/g) ?? [], other.match(/\d+/g) ?? []];
  return mine.reduce((sum, number, at) => sum + Math.abs(Number(number) - Number(theirs[at])), 0);
}

/** How much of two addresses is the same at their beginnings and ends: 0 to 1. */
export function likeness(a: string, b: string): number {
  const shorter = Math.min(a.length, b.length);
  let before = 0;
  while (before < shorter && a[before] === b[before]) before++;
  let after = 0;
  while (after < shorter - before && a[a.length - 1 - after] === b[b.length - 1 - after]) after++;
  return (before + after) / Math.max(a.length, b.length, 1);
}
