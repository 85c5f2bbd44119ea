/** All drivers. Adding a protocol is adding a folder and a line here and in `descriptions.ts`. */
import type { Driver } from './contract.ts';
import { cip } from './cip/driver.ts';
import { opcUa } from './opcUa/driver.ts';
import { manifestOf } from './describedBy.ts';
import { addManifests } from './descriptions.ts';
import { modbusGateway, modbusSerial, modbusTcp, modbusUdp } from './modbus/driver.ts';

const DRIVERS: readonly Driver[] = [modbusTcp, modbusSerial, modbusGateway, modbusUdp, opcUa, cip];
const added = new Map<string, Driver>();

export function findDriver(id: string): Driver | null {
  return DRIVERS.find((d) => d.description.id === id) ?? added.get(id) ?? null;
}

/** Drivers that cannot run on this machine, and why. */
export async function missingDrivers(): Promise<readonly { readonly driver: string; readonly why: string }[]> {
  const all = await Promise.all([...DRIVERS, ...added.values()].map(async (d) => ({ driver: d.description.id, why: (await d.lacks?.()) ?? '' })));
  return all.filter(({ why }) => why !== '');
}

/** Makes a driver known that is not built in. Pages and threads know it by its manifest alone. */
export function addDriver(driver: Driver): void {
  added.set(driver.description.id, driver);
  addManifests([manifestOf(driver.description)]);
}
