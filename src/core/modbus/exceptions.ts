/** Exception codes: Modbus Application Protocol V1.1b3, 7. */
const EXCEPTIONS: ReadonlyMap<number, readonly [name: string, meaning: string]> = new Map([
  [0x01, ['illegal function', 'the device does not know this function, or not in its present state']],
  [0x02, ['illegal data address', 'the device has nothing at one of these addresses']],
  [0x03, ['illegal data value', 'the device refuses the length or the value']],
  [0x04, ['device failure', 'the device failed while it carried the request out']],
  [0x05, ['acknowledge', 'the device needs a long time and has only begun']],
  [0x06, ['device busy', 'the device is busy with a long command']],
  [0x08, ['memory parity error', 'the device found its extended memory damaged']],
  [0x0a, ['gateway path unavailable', 'the gateway has no way to that unit: its own settings']],
  [0x0b, ['gateway target failed to respond', 'the gateway reached no unit of that number']],
]);

export function exceptionName(code: number): string {
  return EXCEPTIONS.get(code)?.[0] ?? `exception ${code.toString(16).toUpperCase().padStart(2, '0')}h`;
}

/** For people: `exception 02, illegal data address: the device has nothing at one of these addresses`. */
export function exceptionInWords(code: number): string {
  const known = EXCEPTIONS.get(code);
  const hex = code.toString(16).toUpperCase().padStart(2, '0');
  return known ? `exception ${hex}, ${known[0]}: ${known[1]}` : `exception ${hex}, not one of the standard`;
}

/** Exceptions that speak of the addresses or lengths asked for, so that a smaller request may succeed. */
export function blamesAddresses(code: number): boolean {
  return code === 0x02 || code === 0x03 || code === 0x04;
}
