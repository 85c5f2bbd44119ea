/** The pure halves of all drivers, for forms, addresses and help. */
import type { DriverDescription } from './contract.ts';
import { modbusGatewayDescription, modbusSerialDescription, modbusTcpDescription, modbusUdpDescription } from './modbus/describe.ts';

export const DRIVER_DESCRIPTIONS: readonly DriverDescription[] = [
  modbusTcpDescription,
  modbusSerialDescription,
  modbusGatewayDescription,
  modbusUdpDescription,
];

export function describeDriver(id: string): DriverDescription | null {
  return DRIVER_DESCRIPTIONS.find((d) => d.id === id) ?? null;
}
