/** Compares addresses of a list with what its device holds: whether the list counts as the device does. */
import { believable, signOfValues, type Believable, type CountingSample, type CountingSign } from '@/core/taglist/countingSigns.ts';
import { newTag } from '@/core/taglist/newTags.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { Device, Link } from '@/core/project/entities.ts';
import { UNGROUPED } from '@/core/project/inherited.ts';
import type { WireValue } from '@/core/signal.ts';
import type { CallContext, DeviceSession, PointSpec } from '@/drivers/contract.ts';
import { effectiveSignal, pointOf, type EffectiveSignal } from '@/mapping/effective.ts';

export interface CountingProbe {
  readonly tag: ListTag;
  readonly sample: CountingSample;
}

/** Reads each value where it is now and where it would be; null when nothing speaks for another counting. */
export async function liveCountingSign(
  probes: readonly CountingProbe[],
  side: { readonly device: Device; readonly link: Link },
  session: DeviceSession,
  context: CallContext,
): Promise<CountingSign | null> {
  const signals = new Map<string, EffectiveSignal>();
  const points: PointSpec[] = [];
  for (const [at, { tag, sample }] of probes.entries())
    for (const address of [sample.here, sample.there]) {
      const own = newTag({ ...tag, address, access: 'read' }, at, { ids: '', deviceId: side.device.id, sourceId: '' });
      const signal = effectiveSignal({
        ...side,
        inherited: UNGROUPED,
        tag: own,
        scale: tag.scale && { id: own.id, scale: tag.scale, sharedId: null },
      });
      if (!signal.ok) continue;
      const point = pointOf(`${at} ${address}`, signal.value);
      signals.set(point.key, signal.value);
      points.push(point);
    }
  const wires = new Map<string, WireValue | null>();
  const silent = await session.prepare(points).read((key, arrival) => {
    if ('wire' in arrival) wires.set(key, arrival.wire);
    else if (arrival.fault.kind === 'refused') wires.set(key, null);
  }, context);
  if (silent) return null;
  const judged = (at: number, address: string): Believable => {
    const [signal, wire] = [signals.get(`${at} ${address}`), wires.get(`${at} ${address}`)];
    return signal === undefined || wire === undefined ? 'nothing' : believable(signal.def, wire);
  };
  return signOfValues(probes.map(({ sample }, at) => ({ ...sample, atHere: judged(at, sample.here), atThere: judged(at, sample.there) })));
}
