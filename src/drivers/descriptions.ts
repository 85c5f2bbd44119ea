/** The pure halves of all drivers, for forms, addresses and help. */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import type { DriverDescription } from './contract.ts';
import { cipDescription } from './cip/describe.ts';
import { opcUaDescription } from './opcUa/describe.ts';
import { describedBy, manifestOf } from './describedBy.ts';
import { modbusGatewayDescription, modbusSerialDescription, modbusTcpDescription, modbusUdpDescription } from './modbus/describe.ts';

const BUILT_IN: readonly DriverDescription[] = [
  modbusTcpDescription,
  modbusSerialDescription,
  modbusGatewayDescription,
  modbusUdpDescription,
  opcUaDescription,
  cipDescription,
];
/** Drivers that are told by their manifest alone. */
const added = new Map<string, DriverDescription>();

/** All that a link can be made with. */
export function driverDescriptions(): readonly DriverDescription[] {
  return [...BUILT_IN, ...added.values()];
}

export function describeDriver(id: string): DriverDescription | null {
  return BUILT_IN.find((d) => d.id === id) ?? added.get(id) ?? null;
}

/** Makes drivers known that are not built in; one that is known already stays as it is. */
export function addManifests(manifests: readonly DriverManifest[]): void {
  for (const manifest of manifests) if (describeDriver(manifest.id) === null) added.set(manifest.id, describedBy(manifest));
}

/** The manifests of drivers that are not built in, for whoever has to be told of them. */
export function addedManifests(): readonly DriverManifest[] {
  return [...added.values()].map(manifestOf);
}
