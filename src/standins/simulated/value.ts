/**
 * One value of a simulated device in its registers, and back. Written apart from the product's codec, so that a
 * wrong order or scale in the one shows against the other.
 */
export interface SimulatedTag {
  readonly name: string;
  readonly area: 'HR' | 'IR' | 'CO' | 'DI';
  /** Counted from 0; of registers. */
  readonly offset: number;
  /** Bit inside a register, counted from the least significant; null for a whole value. */
  readonly bit: number | null;
  readonly kind: 'boolean' | 'signed' | 'unsigned' | 'real' | 'text';
  readonly bytes: number;
  /** Letters of the bytes in the order of the wire, A the most significant. */
  readonly order: string;
  /** Shown = raw × factor + shift. */
  readonly factor: number;
  readonly shift: number;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
  /** Values that the device takes from a panel stand still until somebody sets them. */
  readonly isSetPoint: boolean;
}

export type Shown = number | boolean | string;

/** Bytes as they lie in the registers. */
export function toBytes(tag: SimulatedTag, shown: Shown): Buffer {
  const width = tag.bytes + (tag.bytes % 2);
  const plain = Buffer.alloc(width);
  if (tag.kind === 'text') plain.write(String(shown).slice(0, tag.bytes), 'latin1');
  else {
    const raw = (Number(shown) - tag.shift) / tag.factor;
    if (tag.kind !== 'real') writeWhole(plain, wholeOf(raw), tag);
    else if (tag.bytes === 4) plain.writeFloatBE(raw);
    else plain.writeDoubleBE(raw);
  }
  return reorder(plain, tag.order, false);
}

export function fromBytes(tag: SimulatedTag, held: Buffer): Shown {
  const plain = reorder(held, tag.order, true);
  if (tag.kind === 'text') {
    const text = plain.toString('latin1');
    return text.includes('\0') ? text.slice(0, text.indexOf('\0')) : text;
  }
  let raw: number;
  if (tag.kind === 'real') raw = tag.bytes === 4 ? plain.readFloatBE() : plain.readDoubleBE();
  else {
    const bits = tag.bytes * 8;
    const whole = plain.reduce((n, byte) => (n << 8n) | BigInt(byte), 0n);
    const cut = BigInt.asUintN(bits, whole);
    raw = Number(tag.kind === 'signed' ? BigInt.asIntN(bits, cut) : cut);
  }
  return raw * tag.factor + tag.shift;
}

/** Beyond 64 bits it is as good as at their end; a scale that leads nowhere leads to 0. */
function wholeOf(raw: number): bigint {
  return Number.isNaN(raw) ? 0n : BigInt(Math.round(Math.min(2 ** 64, Math.max(-(2 ** 64), raw))));
}

/** Keeps inside what the type holds. */
function writeWhole(into: Buffer, raw: bigint, { kind, bytes }: SimulatedTag): void {
  const bits = BigInt(bytes * 8);
  const [least, most] = kind === 'signed' ? [-(1n << (bits - 1n)), (1n << (bits - 1n)) - 1n] : [0n, (1n << bits) - 1n];
  let rest = BigInt.asUintN(into.length * 8, raw < least ? least : raw > most ? most : raw);
  for (let i = into.length - 1; i >= 0; i--) {
    into[i] = Number(rest & 0xffn);
    rest >>= 8n;
  }
}

/** Moves the bytes of each group that the order names; what is longer is moved group by group. */
function reorder(bytes: Buffer, order: string, isBack: boolean): Buffer {
  const out = Buffer.alloc(bytes.length);
  const width = order.length;
  for (let group = 0; group < bytes.length; group += width)
    for (let wire = 0; wire < width; wire++) {
      const plain = order.charCodeAt(wire) - 65;
      if (isBack) out[group + plain] = bytes[group + wire] ?? 0;
      else out[group + wire] = bytes[group + plain] ?? 0;
    }
  return out;
}
