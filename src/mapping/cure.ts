/** The change of a tag that a cure stands for. */
import type { Cure } from '@/core/check/explained.ts';
import type { Change } from '@/core/project/command.ts';
import type { Tag } from '@/core/project/entities.ts';
import { pointIn, withPoint } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { scalePhrase } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { Settings } from '@/drivers/contract.ts';
import type { EffectiveSignal } from './effective.ts';

export interface CureChange {
  readonly changes: readonly Change[];
  /** `address 40018, CDAB`: what will be set. */
  readonly words: string;
}

/**
 * @param prefix  that the groups of the tag put before its address
 * @returns the change; refused where the tag has no such place, or another tag's settings hold it
 */
export function cureChange(tag: Tag, signal: EffectiveSignal, prefix: string, dialect: Settings, cure: Cure): Result<CureChange> {
  if (cure.removes) return ok({ changes: [{ kind: 'tag', id: tag.id, set: null }], words: 'removed' });
  const { driver, canonical, def } = signal;
  const words: string[] = [];
  const set: Record<string, unknown> = {};
  let point: { address?: string; order?: string } = {};
  const type = parseDataType(cure.type ?? tag.type);
  if (!type.ok) return type;
  let place = canonical;
  if (cure.moveBy !== 0) {
    const moved = driver?.indexed?.moved(canonical, cure.moveBy, type.value, dialect);
    if (!moved) return fail('address-move', 'The address of this tag cannot be moved by so many places.', 'Enter its address in Map.');
    if (!moved.ok) return moved;
    place = moved.value;
  }
  const span = driver?.memory?.spanOf(place, type.value, dialect);
  const area = driver?.memory?.areas.find(({ id }) => id === span?.area);
  if (cure.moveBy !== 0 || cure.bit !== undefined) {
    if (!driver?.memory || !span || !area)
      return fail('address-move', 'Its source has no memory in which it could be moved.', 'Enter its address in Map.');
    const bit = cure.bit ?? def.bit;
    const address = driver.memory.addressAt(area.id, Math.floor(span.from / area.cellBits), area.cellBits === 1 ? null : bit, dialect);
    if (!address.startsWith(prefix)) return fail('address-move', 'Its group puts something before the address.', 'Enter its address in Map.');
    point = { ...point, address: address.slice(prefix.length) };
    words.push(`address ${address}`);
  }
  if (cure.address !== undefined && cure.address !== canonical) {
    if (!driver) return fail('no-point', 'The tag has no address.');
    // What people are shown may be too short to lead there.
    const short = driver.notation.format(cure.address, type.value, dialect);
    const read = driver.notation.parse(short, type.value, dialect);
    const address = read.ok && read.value.canonical === cure.address ? short : cure.address;
    if (!address.startsWith(prefix)) return fail('address-move', 'Its group puts something before the address.', 'Enter its address in Map.');
    point = { ...point, address: address.slice(prefix.length) };
    words.push(`address ${address}`);
  }
  if (cure.type !== undefined) {
    set.type = cure.type;
    words.push(`type ${cure.type}`);
  }
  if (cure.order !== undefined) {
    point = { ...point, order: cure.order };
    words.push(cure.order);
  }
  if (cure.decimals !== undefined) {
    set.decimals = cure.decimals;
    words.push(`${cure.decimals} decimals`);
  }
  if (cure.scale !== undefined) words.push(`scale ${scalePhrase(cure.scale)}`);
  if (Object.keys(point).length > 0 && !pointIn(tag)) return fail('no-point', 'The tag has no address.');
  const tagSet = { ...set, ...(Object.keys(point).length > 0 ? withPoint(tag, point) : {}) };
  const changes: Change[] = [];
  if (Object.keys(tagSet).length > 0) changes.push({ kind: 'tag', id: tag.id, set: tagSet });
  if (cure.scale !== undefined) changes.push({ kind: 'scale', id: tag.id, set: { scale: cure.scale } });
  return ok({ changes, words: words.join(', ') });
}
