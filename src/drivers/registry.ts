/** All drivers. Adding a protocol is adding a folder and a line here and in `descriptions.ts`. */
import type { Driver } from './contract.ts';
import { modbusGateway, modbusSerial, modbusTcp, modbusUdp } from './modbus/driver.ts';

const DRIVERS: readonly Driver[] = [modbusTcp, modbusSerial, modbusGateway, modbusUdp];

export function findDriver(id: string): Driver | null {
  return DRIVERS.find((d) => d.description.id === id) ?? null;
}
