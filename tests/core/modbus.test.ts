import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { explainAddress, formatArea, formatReference, parseAddress } from '@/core/modbus/address.ts';
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import {
  bitAt,
  checkReply,
  LIMITS,
  readRequest,
  writeCoilRequest,
  writeCoilsRequest,
  writeRegisterRequest,
  writeRegistersRequest,
} from '@/core/modbus/pdu.ts';
import { buildFrame, FrameCutter, MAX_FRAME_BYTES } from '@/core/modbus/tcpFrame.ts';

const bytes = (text: string): Uint8Array => Uint8Array.from(Buffer.from(text.replaceAll(' ', ''), 'hex'));
const hex = (array: Uint8Array): string => Buffer.from(array).toString('hex').toUpperCase();

// Requests and replies printed as examples in Modbus Application Protocol V1.1b3, 6.1 to 6.6, 6.11, 6.12.
const EXAMPLES = [
  ['6.1 read coils', readRequest('CO', 0x13, 0x13), '01 0013 0013', '01 03 CD6B05', 'CD6B05'],
  ['6.2 read discrete inputs', readRequest('DI', 0xc4, 0x16), '02 00C4 0016', '02 03 ACDB35', 'ACDB35'],
  ['6.3 read holding registers', readRequest('HR', 0x6b, 3), '03 006B 0003', '03 06 022B 0000 0064', '022B00000064'],
  ['6.4 read input registers', readRequest('IR', 8, 1), '04 0008 0001', '04 02 000A', '000A'],
  ['6.5 write single coil', writeCoilRequest(0xac, true), '05 00AC FF00', '05 00AC FF00', ''],
  ['6.6 write single register', writeRegisterRequest(1, bytes('0003')), '06 0001 0003', '06 0001 0003', ''],
  [
    '6.11 write multiple coils',
    writeCoilsRequest(
      0x13,
      Array.from({ length: 10 }, (_, i) => bitAt(bytes('CD01'), i)),
    ),
    '0F 0013 000A 02 CD01',
    '0F 0013 000A',
    '',
  ],
  ['6.12 write multiple registers', writeRegistersRequest(1, bytes('000A0102')), '10 0001 0002 04 000A 0102', '10 0001 0002', ''],
] as const;

describe("the specification's examples", () => {
  test.each(EXAMPLES)('%s', (_name, request, requestHex, reply, data) => {
    expect(hex(request)).toBe(requestHex.replaceAll(' ', ''));
    const checked = checkReply(request, bytes(reply));
    expect(checked.ok && checked.value.kind === 'data' && hex(checked.value.data)).toBe(data);
  });
  test('coils come least significant bit first: 0013h to 001Ah are CDh (6.1)', () => {
    expect(Array.from({ length: 8 }, (_, i) => bitAt(bytes('CD'), i))).toEqual([true, false, true, true, false, false, true, true]);
  });
  test('limits of one request (6.1 to 6.12)', () => {
    expect(LIMITS).toEqual({ readBits: 2000, readRegisters: 125, writeBits: 1968, writeRegisters: 123, readWriteWritten: 121 });
    expect(MAX_FRAME_BYTES).toBe(260);
  });
  test('an exception is named with what it means (7)', () => {
    expect(checkReply(readRequest('HR', 0, 1), bytes('83 02'))).toEqual({ ok: true, value: { kind: 'exception', code: 2 } });
    expect(exceptionInWords(2)).toContain('illegal data address');
    expect(exceptionInWords(0x0b)).toContain('gateway target failed to respond');
    expect(exceptionInWords(0x77)).toContain('exception 77, not one of the standard');
  });
});

describe('replies that are none', () => {
  test.each([
    ['nothing', ''],
    ['another function', '04 06 022B 0000 0064'],
    ['a byte count that does not match the request', '03 04 022B 0000'],
    ['a byte count that does not match what came', '03 06 022B 0000'],
    ['too many bytes', '03 06 022B 0000 0064 00'],
    ['an exception cut short', '83'],
    ['an exception without a code', '83 00'],
  ])('%s is refused', (_what, reply) => {
    expect(checkReply(readRequest('HR', 0x6b, 3), bytes(reply))).toMatchObject({ ok: false, problem: { code: 'malformed' } });
  });
  test('a write must be repeated exactly', () => {
    expect(checkReply(writeRegisterRequest(1, bytes('0003')), bytes('06 0001 0004')).ok).toBe(false);
    expect(checkReply(writeRegistersRequest(1, bytes('000A0102')), bytes('10 0001 0001')).ok).toBe(false);
  });
  test('no random bytes become data of another length', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 260 }), fc.integer({ min: 1, max: 125 }), (reply, count) => {
        const checked = checkReply(readRequest('HR', 0, count), reply);
        if (checked.ok && checked.value.kind === 'data') expect(checked.value.data).toHaveLength(count * 2);
      }),
    );
  });
});

describe('frames in a stream', () => {
  const frame = fc.record({ transaction: fc.nat(65535), unit: fc.nat(255), pdu: fc.uint8Array({ minLength: 1, maxLength: 253 }) });

  test('frames come out whole however the stream is cut', () => {
    fc.assert(
      fc.property(fc.array(frame, { maxLength: 8 }), fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 10 }), (frames, cuts) => {
        const stream = Buffer.concat(frames.map((f) => buildFrame(f.transaction, f.unit, f.pdu)));
        const cutter = new FrameCutter();
        const out: unknown[] = [];
        for (let at = 0, i = 0; at < stream.length; i++) {
          const size = cuts[i % cuts.length] ?? 1;
          expect(
            cutter.push(Uint8Array.from(stream.subarray(at, at + size)), (f) =>
              out.push({ transaction: f.transaction, unit: f.unit, pdu: Uint8Array.from(f.pdu) }),
            ),
          ).toBeNull();
          at += size;
        }
        expect(out).toEqual(frames);
      }),
    );
  });
  test('a stream that is not Modbus is told at its header', () => {
    const seen: unknown[] = [];
    expect(new FrameCutter().push(new TextEncoder().encode('SSH-2.0-x\r\n'), (f) => seen.push(f))).toContain('protocol');
    expect(new FrameCutter().push(bytes('0001 0000 0FFF 01 03'), (f) => seen.push(f))).toContain('announces 4095');
    expect(seen).toEqual([]);
  });
  test('100 000 random chunks neither throw nor pile up', () => {
    const cutter = new FrameCutter();
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 64 }), (chunk) => {
        cutter.push(chunk, (f) => expect(f.pdu.length).toBeLessThanOrEqual(253));
      }),
      { numRuns: 100_000 },
    );
  });
});

describe('addresses', () => {
  // Modbus Application Protocol V1.1b3, 4.4: data are numbered from 1, the PDU counts from 0. 40018 is register 17 of the PDU.
  test.each([
    ['40018', 1, 'HR17', '40018'],
    ['400018', 1, 'HR17', '40018'],
    ['HR17', 1, 'HR17', '40018'],
    ['hr 17', 1, 'HR17', '40018'],
    ['40018', 0, 'HR18', '40018'],
    ['30009', 1, 'IR8', '30009'],
    ['10197', 1, 'DI196', '10197'],
    ['00020', 1, 'CO19', '00020'],
    ['465536', 1, 'HR65535', '465536'],
    ['410001', 1, 'HR10000', '410001'],
    ['40031.3', 1, 'HR30.3', '40031.3'],
  ] as const)('%s counted from %d is %s', (text, base, area, reference) => {
    const parsed = parseAddress(text, base);
    expect(parsed.ok && formatArea(parsed.value)).toBe(area);
    expect(parsed.ok && formatReference(parsed.value, base)).toBe(reference);
  });
  test.each(['40000', '465537', 'HR65536', '20001', '50001', '4001', '4000181', 'CO5.1', 'HR1.16', '', 'HR', 'HR-1', 'HR1e3', '%MW5'])(
    '%s is refused',
    (text) => {
      expect(parseAddress(text, 1).ok).toBe(false);
    },
  );
  test('every address survives both notations', () => {
    const address = fc.record({
      area: fc.constantFrom('HR', 'IR', 'CO', 'DI'),
      offset: fc.nat(65535),
      base: fc.constantFrom(0 as const, 1 as const),
    });
    fc.assert(
      fc.property(address, ({ area, offset, base }) => {
        const plain = { area: area as 'HR', offset, bit: null };
        expect(parseAddress(formatArea(plain), base)).toEqual({ ok: true, value: plain });
        expect(parseAddress(formatReference(plain, base), base)).toEqual({ ok: true, value: plain });
      }),
    );
  });
  test('the counting base is told', () => {
    expect(explainAddress({ area: 'HR', offset: 17, bit: null }, 1)).toBe('40018 counted from 1: holding register, PDU address 17 (0011h)');
  });
});
