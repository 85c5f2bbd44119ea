/** Devices that come back from the log by a name that another one has get a number behind it. */
import type { Device } from '@/core/project/entities.ts';
import type { PlannedChange } from './projectModel.ts';
import { siblingKey } from './siblingNames.ts';

/** @param holderOf the id of who has a name, by the key that siblings are told apart by */
export function devicesByOwnNames(changes: readonly PlannedChange[], holderOf: (key: string) => string | undefined): readonly PlannedChange[] {
  const taken = new Set<string>();
  return changes.map((change) => {
    if (change.kind !== 'device' || change.after === null) return change;
    const device = change.after as Device;
    const isFree = (name: string): boolean => {
      const key = siblingKey('device', { ...device, name }) ?? '';
      const holder = holderOf(key);
      return !taken.has(key) && (holder === undefined || holder === device.id);
    };
    let name = device.name;
    for (let n = 2; !isFree(name); n++) name = `${device.name.slice(0, 70)} (${n})`;
    taken.add(siblingKey('device', { ...device, name }) ?? '');
    return name === device.name ? change : { ...change, after: { ...device, name } };
  });
}
