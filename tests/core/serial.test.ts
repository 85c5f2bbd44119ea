import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { crc16, lrc8 } from '@/core/modbus/checkSums.ts';
import { dissect } from '@/core/modbus/dissect.ts';
import {
  checkReply,
  diagnosticRequest,
  identificationRequest,
  maskWriteRequest,
  readRequest,
  readWriteRequest,
  reportRequest,
  writeRegisterRequest,
} from '@/core/modbus/pdu.ts';
import { buildSerialFrame, findReply, serialLength } from '@/core/modbus/serialFrame.ts';
import { characterMs, exchangeMs, formatLine, silenceMs, type LineFormat } from '@/core/plan/lineTime.ts';

const bytes = (text: string): Uint8Array => Uint8Array.from(Buffer.from(text.replaceAll(' ', ''), 'hex'));
const hex = (array: Uint8Array): string => Buffer.from(array).toString('hex').toUpperCase();
const ascii = (text: string): Uint8Array => Uint8Array.from(Buffer.from(text, 'latin1'));
const line = (speed: number, parity: LineFormat['parity'] = 'even'): LineFormat => ({ speed, dataBits: 8, parity, stopBits: 1 });

describe('check sums', () => {
  test('CRC of “123456789” is 4B37h (check value of the catalogue of parametrised CRC algorithms)', () => {
    expect(crc16(ascii('123456789'))).toBe(0x4b37);
  });
  test('frame 02 07 ends in 41 12 (Modbus over Serial Line V1.02, appendix B)', () => {
    expect(hex(buildSerialFrame('rtu', 2, bytes('07')))).toBe('02074112');
  });
  test('01 03 0000 0001 ends in 84 0A', () => {
    expect(hex(buildSerialFrame('rtu', 1, readRequest('HR', 0, 1)))).toBe('010300000001840A');
  });
  test('the bytes of an ASCII frame and its LRC add up to nothing (2.5.2.2)', () => {
    expect(Buffer.from(buildSerialFrame('ascii', 1, readRequest('HR', 0, 1))).toString('latin1')).toBe(':010300000001FB\r\n');
    fc.assert(fc.property(fc.uint8Array(), (data) => lrc8(Uint8Array.of(...data, lrc8(data))) === 0));
  });
});

// Printed in Modbus Application Protocol V1.1b3, 6.16, 6.17 and 6.21.
describe("the specification's examples of the rarer functions", () => {
  test('6.16 mask write register', () => {
    const request = maskWriteRequest(4, 0x00f2, 0x0025);
    expect(hex(request)).toBe('16000400F20025');
    expect(checkReply(request, request).ok).toBe(true);
    expect(checkReply(request, bytes('16 0004 00F2 0026')).ok).toBe(false);
    // Its own arithmetic: 12h in the register becomes 17h.
    expect((0x12 & 0xf2) | (0x25 & ~0xf2)).toBe(0x17);
  });
  test('6.17 read and write registers', () => {
    const request = readWriteRequest(3, 6, 14, bytes('00FF 00FF 00FF'));
    expect(hex(request)).toBe('1700030006000E00030600FF00FF00FF');
    const reply = checkReply(request, bytes('17 0C 00FE 0ACD 0001 0003 000D 00FF'));
    expect(reply.ok && reply.value.kind === 'data' && hex(reply.value.data)).toBe('00FE0ACD00010003000D00FF');
  });
  test('6.21 identification: basic, from object 0', () => {
    const request = identificationRequest(1, 0);
    expect(hex(request)).toBe('2B0E0100');
    const reply = bytes('2B 0E 01 01 00 00 02 00 03 414243 01 02 4445');
    expect(checkReply(request, reply).ok).toBe(true);
    expect(checkReply(request, reply.subarray(0, -1)).ok).toBe(false);
  });
  test('6.8 and 6.13: an echo must be one, a report must be as long as it says', () => {
    expect(checkReply(diagnosticRequest(0, 0xa537), bytes('08 0000 A537')).ok).toBe(true);
    expect(checkReply(diagnosticRequest(0, 0xa537), bytes('08 0000 A538')).ok).toBe(false);
    expect(checkReply(diagnosticRequest(11, 0), bytes('08 000B 0123')).ok).toBe(true);
    expect(checkReply(reportRequest(), bytes('11 02 41FF')).ok).toBe(true);
    expect(checkReply(reportRequest(), bytes('11 03 41FF')).ok).toBe(false);
  });
});

describe.each(['rtu', 'ascii'] as const)('replies on a %s line', (form) => {
  const request = readRequest('HR', 17, 2);
  const frame = buildSerialFrame(form, 3, bytes('03 04 0102 0304'));
  const joined = (...parts: Uint8Array[]): Uint8Array => Uint8Array.from(parts.flatMap((p) => [...p]));

  test('a whole one is found, however much of it came before', () => {
    for (let n = 0; n < frame.length; n++) expect(findReply(form, frame.subarray(0, n), 3, request).kind).toBe('partial');
    expect(findReply(form, frame, 3, request)).toMatchObject({ kind: 'frame', unit: 3, from: 0, end: frame.length });
  });
  test('noise before it is stepped over, and what follows it is left', () => {
    const found = findReply(form, joined(bytes('00 FF 55'), frame, bytes('3A 01')), 3, request);
    expect(found).toMatchObject({ kind: 'frame', unit: 3, from: 3, end: 3 + frame.length });
  });
  test('a flipped bit anywhere is never taken for a reply', () => {
    for (let bit = 0; bit < frame.length * 8; bit++) {
      const damaged = frame.slice();
      damaged[bit >> 3] = (damaged[bit >> 3] ?? 0) ^ (1 << (bit & 7));
      const found = findReply(form, damaged, 3, request);
      if (found.kind !== 'frame') continue;
      // Upper and lower case of a hexadecimal digit are the same digit.
      expect(form === 'ascii' && hex(found.pdu) === '030401020304').toBe(true);
    }
  });
  test('a damaged one is told from noise', () => {
    const damaged = frame.slice();
    damaged[5] = (damaged[5] ?? 0) ^ 1;
    expect(findReply(form, damaged, 3, request)).toEqual({ kind: 'garbage', why: 'checksum' });
    expect(findReply(form, bytes('F8 80 F8 00 F8 80 F8'), 3, request)).toEqual({ kind: 'garbage', why: 'form' });
  });
  test('an exception and another unit are seen as what they are', () => {
    expect(findReply(form, buildSerialFrame(form, 3, bytes('83 02')), 3, request)).toMatchObject({ kind: 'frame', unit: 3 });
    expect(findReply(form, buildSerialFrame(form, 9, bytes('83 02')), 3, request)).toMatchObject({ kind: 'frame', unit: 9 });
  });
  test('100 000 random byte strings: no crash, no value', () => {
    let state = 12345;
    const random = (): number => (state = (Math.imul(state, 1103515245) + 12345) >>> 0) >>> 16;
    for (let i = 0; i < 100_000; i++) {
      const noise = Uint8Array.from({ length: random() % 40 }, random);
      const found = findReply(form, noise, 3, request);
      if (found.kind === 'frame') expect(checkReply(request, found.pdu).ok && noise.length < 9).toBe(false);
      dissect(form, i % 2 ? 'sent' : 'received', noise);
    }
  });
  test('its length on the line is known beforehand', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 253 }), (pdu) => serialLength(form, pdu.length) === buildSerialFrame(form, 1, pdu).length),
    );
  });
});

describe('time on a serial line (Modbus over Serial Line V1.02, 2.5.1.1)', () => {
  test('at 9600 8E1 a character is 1.1458 ms and the silence 4.010 ms', () => {
    expect(characterMs(line(9600))).toBeCloseTo(1.1458, 4);
    expect(silenceMs('rtu', line(9600))).toBeCloseTo(4.01, 3);
    expect(formatLine(line(9600))).toBe('9600 8E1');
  });
  test('above 19200 bit/s the silence is fixed at 1.750 ms', () => {
    expect(silenceMs('rtu', line(19200))).toBeCloseTo(2.005, 3);
    expect(silenceMs('rtu', line(38400))).toBe(1.75);
    expect(silenceMs('rtu', line(115200))).toBe(1.75);
  });
  test('reading 125 registers moves 8 and 255 characters: 301.4 ms at 9600 8E1, 274.0 ms at 9600 8N1', () => {
    const net = (format: LineFormat): number => exchangeMs('rtu', 5, 252, format) - 2 * silenceMs('rtu', format);
    expect(serialLength('rtu', 5) + serialLength('rtu', 252)).toBe(263);
    expect(net(line(9600))).toBeCloseTo(301.4, 1);
    expect(net(line(9600, 'none'))).toBeCloseTo(274.0, 1);
    expect(exchangeMs('rtu', 5, 22, line(9600)) - 2 * silenceMs('rtu', line(9600))).toBeCloseTo(37.8, 1);
  });
});

describe('a frame in words', () => {
  test('a request over TCP, field by field', () => {
    const told = dissect('tcp', 'sent', bytes('0007 0000 0006 01 03 0011 0002'));
    expect(told.summary).toBe('unit 1: read 2 holding registers from HR17');
    expect(told.fields.map((f) => [f.name, f.at, f.bytes])).toEqual([
      ['Transaction', 0, 2],
      ['Protocol', 2, 2],
      ['Length', 4, 2],
      ['Unit', 6, 1],
      ['Function', 7, 1],
      ['Address', 8, 2],
      ['Count', 10, 2],
    ]);
    expect(told.isError).toBe(false);
  });
  test('a reply on a line, with the sum that would be right', () => {
    const good = buildSerialFrame('rtu', 3, bytes('03 04 FFFF 0304'));
    expect(dissect('rtu', 'received', good)).toMatchObject({ summary: 'unit 3: 2 registers: FF FF 03 04', isError: false });
    expect(dissect('rtu', 'received', good).fields.find((f) => f.name === 'Register +0')?.words).toBe('FFFFh, 65535 or -1');
    const bad = good.slice();
    bad[3] = 0;
    expect(dissect('rtu', 'received', bad)).toMatchObject({ summary: 'unit 3: 2 registers: 00 FF 03 04 (check sum wrong)', isError: true });
  });
  test('exceptions, writes, and what was cut short', () => {
    expect(dissect('rtu', 'received', buildSerialFrame('rtu', 1, bytes('83 02'))).summary).toContain('illegal data address');
    expect(dissect('rtu', 'sent', buildSerialFrame('rtu', 1, writeRegisterRequest(40, bytes('0019')))).summary).toBe(
      'unit 1: write 0019h, 25 to HR40',
    );
    expect(dissect('ascii', 'sent', buildSerialFrame('ascii', 1, maskWriteRequest(4, 0xfffe, 1))).summary).toContain('keep FFFEh, set 0001h');
    expect(dissect('tcp', 'received', bytes('0007 0000 0004 01 03 04 01'))).toMatchObject({ isError: true });
    expect(dissect('tcp', 'received', bytes('00 07'))).toMatchObject({ summary: 'no whole frame', isError: true });
  });
  test('every byte of a frame belongs to exactly one field', () => {
    const requests = [
      readRequest('CO', 5, 9),
      readWriteRequest(3, 6, 14, bytes('00FF 0001')),
      identificationRequest(2, 0),
      diagnosticRequest(0, 7),
      reportRequest(),
    ];
    for (const pdu of requests) {
      const frame = buildSerialFrame('rtu', 1, pdu);
      const covered = dissect('rtu', 'sent', frame).fields.flatMap((f) => Array.from({ length: f.bytes }, (_, i) => f.at + i));
      expect(covered.sort((a, b) => a - b)).toEqual(Array.from(frame, (_, i) => i));
    }
  });
});
