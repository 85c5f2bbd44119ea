/** What can go wrong with the replies of a stand-in, by order on its control channel. */
export interface Faults {
  /** Each reply comes so much later. */
  readonly delayMs?: number;
  /** One reply in so many is missing; 1 for all. */
  readonly drop?: number;
  /** Replies end after so many bytes. */
  readonly cut?: number;
  /** One reply in so many has a flipped bit; 1 for all. */
  readonly garble?: number;
  /** Stray bytes before each reply. */
  readonly noise?: boolean;
  /** What is asked comes back first, as from a two-wire adapter. */
  readonly echo?: boolean;
  /** Every request is refused with this exception. */
  readonly exception?: number;
  /** Replies carry a transaction number that is so much higher. */
  readonly transaction?: number;
  /** Units that say nothing. */
  readonly silence?: readonly number[];
  /** Replies come under this unit's number. */
  readonly stranger?: number;
  /** As if the speed were another one: nothing is understood, and what is heard of the line is no frame. */
  readonly speed?: boolean;
  /** As if the parity were another one: every request is discarded. */
  readonly parity?: boolean;
}

const NUMBERS = ['delayMs', 'drop', 'cut', 'garble', 'exception', 'transaction', 'stranger'];
const SWITCHES = ['noise', 'echo', 'speed', 'parity'];

export function parseFaults(order: unknown): Faults | null {
  if (typeof order !== 'object' || order === null) return null;
  const isFit = Object.entries(order).every(([name, value]) => {
    if (NUMBERS.includes(name)) return Number.isInteger(value) && Number(value) >= 0 && Number(value) <= 65535;
    if (SWITCHES.includes(name)) return typeof value === 'boolean';
    return name === 'silence' && Array.isArray(value) && value.length <= 247 && value.every(Number.isInteger);
  });
  return isFit ? order : null;
}

let count = 0;

/** Hands a reply over the way the faults have it: whole, damaged, late or not at all. */
export function faultyReplies(faults: Faults, unit: number, reply: Buffer, send: (bytes: Buffer) => void): void {
  count++;
  if (faults.silence?.includes(unit) || faults.parity || (faults.drop && count % faults.drop === 0)) return;
  let bytes = faults.speed ? atAnotherSpeed(reply) : reply;
  if (faults.garble && count % faults.garble === 0) {
    bytes = Buffer.from(bytes);
    // The last data byte: length and form stay, so that only the check sum tells.
    const at = Math.max(0, bytes.length - 3);
    bytes[at] = (bytes[at] ?? 0) ^ 0x10;
  }
  if (faults.cut !== undefined) bytes = bytes.subarray(0, faults.cut);
  if (faults.noise) bytes = Buffer.concat([Buffer.from([0x00, 0xff, 0x8f]), bytes]);
  if (faults.delayMs) setTimeout(() => send(bytes), faults.delayMs);
  else send(bytes);
}

/** What is heard of a faster line: fewer characters, and others. */
function atAnotherSpeed(bytes: Buffer): Buffer {
  return Buffer.from(bytes.filter((_, i) => i % 2 === 0).map((b) => (b & 0x1e ? 0xf8 : 0x80) ^ (b & 0x06)));
}
