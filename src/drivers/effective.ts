/** The settings that a tag really has, its device's and link's filled in. Pure: server and browser share it. */
import { signalDigest } from '@/core/check/digest.ts';
import type { Device, Link, Tag, TagScale } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { scaleFor } from '@/core/scaling/durationScale.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { parseOrder } from '@/core/value/byteOrder.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { describeDriver } from './descriptions.ts';
import type { DriverDescription, PointSpec } from './contract.ts';

export interface EffectiveSignal {
  readonly driver: DriverDescription;
  readonly canonical: string;
  readonly writable: boolean;
  readonly def: SignalDefinition;
  readonly digest: string;
}

export interface TagSettings {
  readonly tag: Tag;
  readonly scale: TagScale | null;
  readonly device: Device;
  readonly link: Link;
}

/** What the driver is asked for of a tag. */
export function pointOf(tagId: string, { canonical, def }: Pick<EffectiveSignal, 'canonical' | 'def'>): PointSpec {
  return { key: tagId, canonical, type: def.type };
}

/** Refuses what does not fit together, with the field as the place: `type`, `address`, `order`. */
export function effectiveSignal({ tag, scale, device, link }: TagSettings): Result<EffectiveSignal> {
  const driver = describeDriver(link.driver);
  if (!driver) return fail('driver', `No driver “${link.driver}” is known here.`, 'Choose a driver for the link.', 'driver');
  const type = parseDataType(tag.type);
  if (!type.ok) return { ok: false, problem: { ...type.problem, place: 'type' } };
  if (tag.address === '')
    return fail('no-address', 'Its list gives it no address yet.', 'Import a list that has one, or give it one in Map.', 'address');
  const address = driver.notation.parse(tag.address, type.value, device.dialect);
  if (!address.ok) return { ok: false, problem: { ...address.problem, place: 'address' } };
  const order = tag.order === '' ? ok(driver.defaultOrder(device.dialect, type.value)) : parseOrder(tag.order, type.value);
  if (!order.ok) return { ok: false, problem: { ...order.problem, place: 'order' } };
  const given = scaleFor(type.value, scale?.scale ?? null, tag.unit);
  if (!given.ok) return given;
  const isNumber = type.value.kind === 'integer' || type.value.kind === 'real';
  const def: SignalDefinition = {
    type: type.value,
    order: order.value,
    bit: address.value.bit,
    scale: isNumber ? given.value : AS_IS,
    unit: tag.unit,
    decimals: isNumber ? tag.decimals : null,
    range: isNumber && tag.rangeLow !== null && tag.rangeHigh !== null ? { low: tag.rangeLow, high: tag.rangeHigh } : null,
    ...(tag.names.length > 0 && type.value.kind !== 'real' && type.value.kind !== 'text' ? { names: tag.names } : {}),
  };
  // A proof belongs to a machine: where one says who it is, that is part of what was seen.
  const identity = device.identityTagId !== null && device.identity !== '' ? [`identity ${device.identity}`] : [];
  const origin = (): readonly string[] => [...driver.origin(link.settings, device.settings, device.dialect, address.value.canonical), ...identity];
  let digest: string | null = null;
  return ok({
    driver,
    canonical: address.value.canonical,
    writable: address.value.writable && tag.access === 'readWrite',
    def,
    // Made when it is asked for: thousands of tags come in at once, and few are checked at once.
    get digest() {
      return (digest ??= signalDigest(origin(), def));
    },
  });
}

/** Effective signals kept as long as all that they are made of is the same (by identity: entities never change). */
export class EffectiveSignals {
  readonly #known = new Map<string, TagSettings & { readonly result: Result<EffectiveSignal> }>();

  of(settings: TagSettings): Result<EffectiveSignal> {
    const { tag, scale, device, link } = settings;
    const known = this.#known.get(tag.id);
    if (known && known.tag === tag && known.scale === scale && known.device === device && known.link === link) return known.result;
    const result = effectiveSignal(settings);
    this.#known.set(tag.id, { ...settings, result });
    return result;
  }

  forget(tagId: string): void {
    this.#known.delete(tagId);
  }
}
