/** Numbers that a simulated device keeps as digits, and its clocks. Apart from the product's codec, like all of its values. */
import type { SimulatedTag } from './value.ts';

export function writeDigits(into: Buffer, raw: bigint, { coding, bytes }: SimulatedTag): void {
  const size = raw < 0n ? -raw : raw;
  if (coding === 'bcd')
    into.write(
      size
        .toString()
        .padStart(bytes * 2, '0')
        .slice(-bytes * 2)
        .padStart(into.length * 2, '0'),
      'hex',
    );
  else if (coding === 'sign-magnitude') {
    into.write(size.toString(16).padStart(into.length * 2, '0'), 'hex');
    const top = into.length - bytes;
    if (raw < 0n) into[top] = (into[top] ?? 0) | 0x80;
  } else {
    const registers =
      size
        .toString()
        .padStart(bytes * 2, '0')
        .match(/..../g) ?? [];
    registers.slice(-bytes / 2).forEach((four, i) => into.writeInt16BE(raw < 0n ? -Number(four) : Number(four), i * 2));
  }
}

export function digitsIn(held: Buffer, { coding, bytes, kind }: SimulatedTag): bigint {
  const own = held.subarray(held.length - bytes);
  if (coding === 'bcd') return BigInt(own.toString('hex'));
  if (coding === 'sign-magnitude') {
    const size = BigInt(`0x${own.toString('hex')}`) % (1n << BigInt(bytes * 8 - 1));
    return ((own[0] ?? 0) & 0x80) === 0 ? size : -size;
  }
  let value = 0n;
  for (let at = 0; at < bytes; at += 2) value = value * 10_000n + BigInt(kind === 'signed' ? own.readInt16BE(at) : own.readUInt16BE(at));
  return value;
}

/** A date or time as `2026-11-27-06:33:07.123`, whatever of it the clock has. */
export function dateBytes({ coding, bytes }: SimulatedTag, shown: string): Buffer {
  const numbers = (shown.match(/\d+/g) ?? []).map(Number);
  const out = Buffer.alloc(bytes);
  if (coding.startsWith('parts')) {
    numbers.slice(0, bytes / 2).forEach((number, i) => out.writeUInt16BE(number & 0xffff, i * 2));
    return out;
  }
  const [year = 2000, month = 1, day = 1, ...time] = numbers;
  const weekday = new Date(Date.UTC(year, month - 1, day)).getUTCDay() + 1;
  const thousandths = (/\.(\d+)/.exec(shown)?.[1] ?? '').padEnd(3, '0').slice(0, 3);
  const pairs = [year % 100, month, day, time[0] ?? 0, time[1] ?? 0, time[2] ?? 0].map((n) => String(n).padStart(2, '0')).join('');
  out.write(`${pairs}${thousandths}${weekday}`, 'hex');
  return out;
}

export function dateOf({ coding }: SimulatedTag, held: Buffer): string {
  if (!coding.startsWith('parts')) {
    const digits = held.toString('hex');
    const [year = '', month = '', day = '', ...time] = digits.slice(0, 12).match(/../g) ?? [];
    const fraction = digits.slice(12, 15).replace(/0+$/, '');
    return `${Number(year) < 90 ? '20' : '19'}${year}-${month}-${day}-${time.join(':')}${fraction === '' ? '' : `.${fraction}`}`;
  }
  const registers = Array.from({ length: held.length / 2 }, (_, i) => String(held.readUInt16BE(i * 2)).padStart(2, '0'));
  if (coding.endsWith('timeOfDay')) return registers.join(':');
  return [registers.slice(0, 3).join('-'), registers.slice(3).join(':')].filter(Boolean).join('-');
}
