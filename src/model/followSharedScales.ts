/**
 * What becomes of tags by their shared scales: a tag that is given one takes it with its unit and decimals; all tags of one
 * follow its changes; a tag whose scale is changed by itself leaves it.
 */
import type { AnyEntity, EntityKind, SharedScale, Tag, TagScale } from '@/core/project/entities.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import type { Line } from '@/core/scaling/line.ts';
import { limitsAlong, rangeAlong, unitChange } from '@/core/units/unitChange.ts';
import type { Look } from './fits.ts';

export interface FollowingScales {
  /** As it was before the command. */
  readonly before: Look;
  /** As the command leaves it so far. */
  readonly look: Look;
  readonly put: (kind: EntityKind, id: string, entity: AnyEntity | null) => void;
  readonly tagsOf: (sharedId: string) => Iterable<string>;
}

/** @param changed what the command itself says of scales and shared scales */
export function* followSharedScales(
  changed: readonly { readonly kind: EntityKind; readonly entity: AnyEntity | null }[],
  along: FollowingScales,
): Generator<void> {
  for (const { kind, entity } of changed) {
    yield;
    if (kind === 'scale' && entity) settle(entity as TagScale, along);
  }
  for (const { kind, entity } of changed) {
    const before = kind === 'sharedScale' && entity ? along.before('sharedScale', entity.id) : null;
    if (before && !sameJson(before, entity)) yield* carry(before, entity as SharedScale, along);
  }
}

/** One that the command has given a scale. */
function settle(given: TagScale, { before, look, put }: FollowingScales): void {
  const shared = look('sharedScale', given.sharedId ?? '');
  if (!shared) return;
  const was = before('scale', given.id);
  if (was?.sharedId !== shared.id) {
    put('scale', given.id, { ...given, scale: shared.scale });
    const [tag, earlier] = [look('tag', given.id), before('tag', given.id)];
    // What the same command says of the tag itself counts.
    if (tag && (!earlier || (earlier.unit === tag.unit && earlier.decimals === tag.decimals))) put('tag', tag.id, shownAs(tag, shared));
  } else if (!sameJson(given.scale, was.scale) && !sameJson(given.scale, shared.scale)) put('scale', given.id, { ...given, sharedId: null });
}

function shownAs(tag: Tag, { unit, decimals }: SharedScale): Tag {
  return { ...tag, unit, decimals: decimals ?? tag.decimals };
}

/** What is said of the value in the unit that it had. */
function rangesAlong({ rangeLow, rangeHigh, displayRange, limits }: Tag, line: Line): Partial<Tag> {
  const expected = rangeLow !== null && rangeHigh !== null ? rangeAlong(line, { low: rangeLow, high: rangeHigh }) : null;
  return {
    rangeLow: expected?.low ?? null,
    rangeHigh: expected?.high ?? null,
    displayRange: displayRange && rangeAlong(line, displayRange),
    limits: limits && limitsAlong(line, limits),
  };
}

function* carry(before: SharedScale, after: SharedScale, { look, put, tagsOf }: FollowingScales): Generator<void> {
  for (const id of tagsOf(after.id)) {
    yield;
    const scale = look('scale', id);
    if (scale?.sharedId !== after.id) continue;
    if (!sameJson(scale.scale, after.scale)) put('scale', id, { ...scale, scale: after.scale });
    const tag = look('tag', id);
    if (!tag) continue;
    const change = tag.unit === before.unit ? unitChange(before.scale, after.scale) : null;
    const unit = tag.unit === before.unit ? after.unit : tag.unit;
    const decimals = tag.decimals === before.decimals ? after.decimals : tag.decimals;
    if (unit !== tag.unit || decimals !== tag.decimals) put('tag', id, { ...tag, ...(change ? rangesAlong(tag, change.line) : {}), unit, decimals });
  }
}
