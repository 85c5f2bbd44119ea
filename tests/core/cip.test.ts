/** Codecs of CIP and EtherNet/IP: addresses, routes, frames, messages, and reading plans. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { dissectEip } from '@/core/cip/dissect.ts';
import { canHold, codeFor, codeNamed } from '@/core/cip/dataTypes.ts';
import {
  buildFrame,
  carriedIn,
  connectedFrame,
  FrameCutter,
  itemsIn,
  readFrame,
  registerSessionFrame,
  unconnectedFrame,
} from '@/core/cip/encapsulation.ts';
import { identityIn, readIdentity } from '@/core/cip/identity.ts';
import { alongRoute, buildMultiple, buildRequest, forwardOpen, readReply, splitMultiple } from '@/core/cip/message.ts';
import { messageBytes, needsFragments, packItems, planReads, takenApart, type TagPoint } from '@/core/cip/readPlan.ts';
import { parseRoute } from '@/core/cip/route.ts';
import { statusInWords } from '@/core/cip/status.ts';
import { readSymbols, readTemplate, readTemplateFacts, readTypeWord } from '@/core/cip/symbols.ts';
import { encodeSteps, formatTagPath, objectPath, parseTagPath, pathInWords, stepsLength, type Step } from '@/core/cip/tagPath.ts';
import { modifyData, readTyped, valueIn, writeData } from '@/core/cip/values.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { peerFor } from '../support/stEthernetIp.ts';

const hex = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex');
const typeOf = (text: string) => {
  const type = parseDataType(text);
  if (!type.ok) throw new Error(type.problem.message);
  return type.value;
};
const stepsOf = (text: string): readonly Step[] => {
  const path = parseTagPath(text);
  if (!path.ok) throw new Error(path.problem.message);
  return path.value.steps;
};

const name = fc.stringMatching(/^[A-Za-z_][A-Za-z0-9_]{0,12}$/);
const part = fc
  .tuple(name, fc.array(fc.nat(70_000), { maxLength: 3 }))
  .map(([own, indexes]) => (indexes.length > 0 ? `${own}[${indexes.join(',')}]` : own));
const address = fc
  .tuple(fc.option(name, { nil: null }), fc.array(part, { minLength: 1, maxLength: 4 }), fc.option(fc.nat(31), { nil: null }))
  .map(([program, parts, bit]) => `${program === null ? '' : `Program:${program}.`}${parts.join('.')}${bit === null ? '' : `.${bit}`}`);

describe('addresses', () => {
  test('are read again as what they were', () => {
    fc.assert(
      fc.property(address, (text) => {
        const path = parseTagPath(text);
        if (!path.ok) throw new Error(path.problem.message);
        const canonical = formatTagPath(path.value);
        expect(canonical).toBe(text);
        expect(parseTagPath(` ${canonical} `)).toEqual(path);
        expect(encodeSteps(path.value.steps)).toHaveLength(stepsLength(path.value.steps));
      }),
    );
  });

  test.each([
    '',
    '3Level',
    'Bagger[',
    'Bagger[1,2,3,4]',
    'Bagger[x]',
    'A..B',
    'A.64',
    'Program:Main',
    'A.5.B',
    'Bagger[4294967296]',
    'a b',
    'Bagger[1][2]',
  ])('%p is refused with the forms that are taken', (text) => {
    const path = parseTagPath(text);
    expect(path.ok ? '' : path.problem.remedy).toContain('Bagger[2].Weight');
  });

  test('become the segments of a request', () => {
    // CIP volume 1, C-1.4: 91h, length, name, a pad byte when odd; 28h, 29h, 2Ah for elements.
    expect(hex(encodeSteps(stepsOf('Rate')))).toBe('910452617465');
    expect(hex(encodeSteps(stepsOf('Bag[5].x')))).toBe('91034261670028059101' + '7800');
    expect(hex(encodeSteps(stepsOf('B[256,65536]')))).toBe('91014200' + '29000001' + '2a0000000100');
    expect(hex(objectPath(0x06, 1))).toBe('20062401');
    expect(hex(objectPath(0x6b, 0x1234))).toBe('206b25003412');
    expect(pathInWords(encodeSteps(stepsOf('Program:Main.Bag[300].x')))).toBe('Program:Main.Bag[300].x');
  });

  test('become the same segments as another library makes of them', () => {
    const { Tag } = peerFor(44818);
    // It takes no name that ends with an underscore.
    const plain = fc.stringMatching(/^[A-Za-z][A-Za-z0-9]{0,12}$/);
    fc.assert(
      fc.property(plain, fc.array(fc.nat(70_000), { maxLength: 3 }), plain, (own, indexes, member) => {
        const text = `${own}${indexes.length > 0 ? `[${indexes.join(',')}]` : ''}.${member}`;
        const theirs = (new Tag(text) as unknown as { path: Uint8Array }).path;
        expect(hex(encodeSteps(stepsOf(text)))).toBe(hex(theirs));
      }),
      { numRuns: 50 },
    );
  });

  test('of a route are pairs of a port and a slot or an address', () => {
    const route = (text: string): string => {
      const parsed = parseRoute(text);
      return parsed.ok ? hex(parsed.value) : parsed.problem.code;
    };
    // Route 1,0: path bytes 01 00 (common practice).
    expect(['', '1,0', ' 1 , 12 ', '1,3,2,192.0.2.7,1,0', '1', '0,1', '1,300!', '18,5'].map(route)).toEqual([
      '',
      '0100',
      '010c',
      `01031209${Buffer.from('192.0.2.7').toString('hex')}000100`,
      'route',
      'route',
      'route',
      // From port 15 on the number stands apart, in two bytes.
      '0f120005',
    ]);
  });
});

describe('frames', () => {
  test('have a header of 24 bytes', () => {
    // CIP volume 2, 2-4.4: RegisterSession 65h with version 1 and no options.
    expect(hex(registerSessionFrame())).toBe('6500040000000000000000000000000000000000000000000100' + '0000');
    const frame = readFrame(unconnectedFrame(0x1234, Uint8Array.of(1, 2, 3), 77));
    expect(frame).toMatchObject({ ok: true, value: { command: 0x6f, session: 0x1234, context: 77 } });
    if (!frame.ok) return;
    expect(carriedIn(frame.value.data)).toEqual({ ok: true, value: { kind: 'unconnected', message: Uint8Array.of(1, 2, 3) } });
    const on = readFrame(connectedFrame(1, 0xaabbccdd, 0xffff, Uint8Array.of(9), 0));
    expect(on.ok ? carriedIn(on.value.data) : null).toEqual({
      ok: true,
      value: { kind: 'connected', connection: 0xaabbccdd, sequence: 0xffff, message: Uint8Array.of(9) },
    });
  });

  test('come whole, however the stream is cut', () => {
    fc.assert(
      fc.property(
        fc.array(fc.uint8Array({ maxLength: 90 }), { maxLength: 6 }),
        fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1 }),
        (bodies, cuts) => {
          const stream = Buffer.concat(bodies.map((body, i) => buildFrame(0x70, 5, body, i)));
          const cutter = new FrameCutter();
          const seen: string[] = [];
          for (let at = 0, i = 0; at < stream.length; i++) {
            const length = cuts[i % cuts.length] ?? 1;
            expect(cutter.push(stream.subarray(at, at + length), (frame) => seen.push(hex(frame.data)))).toBeNull();
            at += length;
          }
          expect(seen).toEqual(bodies.map(hex));
        },
      ),
    );
  });

  test('and messages of any bytes are refused or read, and never more', () => {
    const types = ['BOOL', 'SINT', 'INT', 'DINT', 'LINT', 'REAL', 'LREAL', 'STRING(20)'].map(typeOf);
    const readers: readonly ((bytes: Uint8Array) => unknown)[] = [
      (bytes) => readFrame(bytes),
      (bytes) => new FrameCutter().push(bytes, () => undefined),
      (bytes) => carriedIn(bytes),
      (bytes) => itemsIn(bytes, 0),
      (bytes) => identityIn(bytes),
      (bytes) => readIdentity(bytes),
      (bytes) => readReply(bytes, 0x4c),
      (bytes) => splitMultiple(bytes, 3),
      (bytes) => readSymbols(bytes),
      (bytes) => readTemplateFacts(bytes),
      (bytes) => readTemplate(bytes, 4),
      (bytes) => dissectEip('sent', bytes),
      (bytes) => dissectEip('received', bytes),
      (bytes) => pathInWords(bytes),
      (bytes) => {
        const typed = readTyped(bytes);
        if (typed.ok) for (const type of types) valueIn(typed.value, { at: 0, bit: type.kind === 'boolean' ? 3 : null, isPacked: false }, type);
      },
    ];
    // Half of them begin as frames do, so that what is inside is reached.
    let seed = 20261126;
    const random = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    const heads = [[], [0x6f, 0], [0x70, 0], [0xcc, 0, 0, 0], [0x8a, 0, 0, 0], [0xa0, 0x02]];
    for (let run = 0; run < 100_000; run++) {
      const head = heads[run % heads.length] ?? [];
      const bytes = Uint8Array.from({ length: Math.floor(random() * 80) }, (_, i) => head[i] ?? Math.floor(random() * 256));
      if (run % 2 === 0 && bytes.length >= 24) {
        new DataView(bytes.buffer).setUint16(2, bytes.length - 24, true);
        bytes.fill(0, 8, 12);
        if (bytes.length > 44) bytes.set([0, 0, 0, 0, 0, 0, 2, 0, run % 4 ? 0 : 0xa1, 0, run % 4 ? 0 : 4, 0], 24);
      }
      for (const [which, reader] of readers.entries())
        try {
          reader(bytes);
        } catch (error) {
          throw new Error(`reader ${which} fails on ${hex(bytes)}: ${String(error)}`);
        }
    }
  });
});

describe('messages', () => {
  test('to a processor behind an adapter are wrapped with their route', () => {
    const message = buildRequest(0x4c, encodeSteps(['Rate']), [1, 0]);
    // Unconnected Send 52h to the connection manager; the route 01 00 ends it.
    expect(hex(alongRoute(message, Uint8Array.of(1, 0), 2000))).toBe(`520220062401${'0a01'}0a00${hex(message)}01000100`);
    expect(alongRoute(message, new Uint8Array(0), 2000)).toBe(message);
  });

  test('on a connection begin with its opening: large where 511 bytes are not enough', () => {
    const asked = { route: Uint8Array.of(1, 0), ourId: 2, serial: 3, originator: 4 };
    const large = forwardOpen({ ...asked, size: 4000 });
    const small = forwardOpen({ ...asked, size: 500 });
    expect([large.service, small.service]).toEqual([0x5b, 0x54]);
    expect(large.message[0]).toBe(0x5b);
    // Network parameters: point to point, low priority, variable size.
    expect(hex(large.message)).toContain('a00f0042');
    expect(hex(small.message)).toContain('f443');
    expect(hex(large.message).endsWith('a303010020022401')).toBe(true);
  });

  test('of several services carry each of them whole', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ minLength: 4, maxLength: 30 }), { minLength: 1, maxLength: 12 }), (replies) => {
        const packed = buildMultiple(replies);
        expect(splitMultiple(packed.subarray(6), replies.length)).toEqual({ ok: true, value: replies });
      }),
    );
    expect(splitMultiple(Uint8Array.of(2, 0, 6, 0, 3, 0, 1), 2).ok).toBe(false);
  });

  test('that are refused say it in words with their status', () => {
    expect(statusInWords({ general: 0x04, extended: 0 }).message).toBe('The controller has no tag or member of that name (status 04h).');
    expect(statusInWords({ general: 0xff, extended: 0x2107 }).message).toBe('The tag is of another type (status FFh, 2107h).');
    expect(statusInWords({ general: 0x77, extended: 0 }).message).toBe('The controller refused it (status 77h).');
  });
});

describe('values', () => {
  test('are the bits of the type that came, least significant byte first', () => {
    const value = (bytes: string, type: string, bit: number | null = null) => {
      const typed = readTyped(Uint8Array.from(Buffer.from(bytes, 'hex')));
      const read = typed.ok ? valueIn(typed.value, { at: 0, bit, isPacked: false }, typeOf(type)) : typed;
      return read.ok ? read.value : read.problem.code;
    };
    // IEEE 754: 123456.0 is 47F12000h, 1.0 is 3F800000h.
    expect(value('ca000020f147', 'REAL')).toBe(123456);
    expect(value('ca000000803f', 'REAL')).toBe(1);
    expect(value('c300feff', 'INT')).toBe(-2);
    expect(value('c300feff', 'WORD')).toBe(0xfffe);
    expect(value('c300feff', 'UINT')).toBe('unfit-value');
    expect(value('c2009c', 'SINT')).toBe(-100);
    expect(value('c500feffffffffffffff', 'LINT')).toBe(-2n);
    expect(value('ca000000c07f', 'REAL')).toBe('not-a-number');
    expect(value('c40000000080', 'BOOL', 31)).toBe(true);
    expect(value('c40000000080', 'BOOL', 32)).toBe('unfit-value');
    expect(value('a002ce0f030000004f617400', 'STRING(20)')).toBe('Oat');
    expect(value('a002ce0f090000004f617400', 'STRING(20)')).toBe('unfit-value');
    expect(value('c400010000', 'DINT')).toBe('short');
  });

  test('written come back as what was asked for, or are refused', () => {
    const codes = ['SINT', 'INT', 'DINT', 'LINT', 'USINT', 'UINT', 'UDINT', 'ULINT', 'BYTE', 'WORD', 'DWORD', 'LWORD'] as const;
    fc.assert(
      fc.property(fc.constantFrom(...codes), fc.bigInt(-(2n ** 65n), 2n ** 65n), (type, wide) => {
        const known = typeOf(type);
        if (known.kind !== 'integer') throw new Error('no integer');
        const raw = known.bytes === 8 ? wide : Number(wide % 2n ** 33n);
        const data = writeData(codeNamed(type) ?? 0, raw, null);
        const isInside = BigInt(raw) >= known.min && BigInt(raw) <= known.max;
        expect(data.ok).toBe(isInside);
        if (!data.ok) return;
        const typed = readTyped(Uint8Array.from([...data.value.subarray(0, 2), ...data.value.subarray(4)]));
        expect(typed.ok ? valueIn(typed.value, { at: 0, bit: null, isPacked: false }, known) : typed).toEqual({ ok: true, value: raw });
      }),
    );
  });

  test('of one bit are written by masks', () => {
    // Read-Modify-Write: width, bits to set, bits to keep.
    expect(hex(modifyData(4, 9, true))).toBe('0400' + '00020000' + 'ffffffff');
    expect(hex(modifyData(2, 15, false))).toBe('0200' + '0000' + 'ff7f');
  });

  test('fit their own type, bit strings any integer of their width, and times what counts them', () => {
    const fitting = (type: string): readonly string[] =>
      ['BOOL', 'SINT', 'INT', 'DINT', 'LINT', 'UINT', 'REAL', 'LREAL', 'WORD'].filter((code) => canHold(typeOf(type), codeNamed(code) ?? 0));
    expect(fitting('INT')).toEqual(['INT', 'WORD']);
    expect(fitting('WORD')).toEqual(['INT', 'UINT', 'WORD']);
    expect(fitting('TIME')).toEqual(['DINT']);
    expect(fitting('BOOL')).toEqual(['BOOL']);
    expect(fitting('REAL')).toEqual(['REAL']);
    expect(codeFor(typeOf('LTIME'))).toBe(0xc5);
  });
});

describe('a reading plan', () => {
  const TYPES = ['BOOL', 'SINT', 'INT', 'DINT', 'LINT', 'REAL', 'STRING(30)'];
  const points = fc
    .array(
      fc.tuple(
        fc.constantFrom('a', 'b', 'long_name_of_a_tag', 'c.d'),
        fc.option(fc.nat(400), { nil: null }),
        fc.constantFrom(...TYPES),
        fc.option(fc.nat(15), { nil: null }),
      ),
      { maxLength: 120 },
    )
    .map((all) =>
      all.map(([own, index, type, bit], i): TagPoint => {
        const path = parseTagPath(`${own}${index === null ? '' : `[${index}]`}${type === 'BOOL' && bit !== null ? `.${bit}` : ''}`);
        if (!path.ok) throw new Error(path.problem.message);
        return { key: String(i), path: path.value, type: typeOf(type) };
      }),
    );

  test('asks for each tag once, where it lies, and no message is larger than it may be', () => {
    fc.assert(
      fc.property(points, fc.integer({ min: 120, max: 900 }), (all, most) => {
        const size = { request: most, reply: most };
        const items = planReads(all, most - 24);
        const messages = packItems(items, size);
        expect(
          messages
            .flat()
            .flatMap((item) => item.takes.map((t) => t.key))
            .sort(),
        ).toEqual(all.map((p) => p.key).sort());
        for (const message of messages) {
          const bytes = messageBytes(message);
          if (message.length > 1) expect([bytes.request <= most, bytes.reply <= most]).toEqual([true, true]);
        }
        for (const item of items)
          for (const take of item.takes) {
            const wanted = all[Number(take.key)];
            const index = Number(item.steps.at(-1)) + take.at;
            const steps = typeof item.steps.at(-1) === 'number' ? [...item.steps.slice(0, -1), index] : item.steps;
            const last = wanted?.path.steps.at(-1);
            const expected =
              take.isPacked && typeof last === 'number' ? [...(wanted?.path.steps.slice(0, -1) ?? []), Math.floor(last / 32)] : wanted?.path.steps;
            expect(steps).toEqual(expected);
            expect(take.at < item.count).toBe(true);
            if (item.count > 1)
              expect(
                takenApart(item)
                  .flatMap((i) => i.takes.map((t) => t.key))
                  .sort(),
              ).toEqual(item.takes.map((t) => t.key).sort());
          }
      }),
    );
  });

  test('reads neighbours together and does not reach across what is far apart', () => {
    const plan = (...addresses: string[]) =>
      planReads(
        addresses.map((text, i) => ({ key: String(i), path: { steps: stepsOf(text), bit: null }, type: typeOf('INT') })),
        400,
      ).map(({ name: own, count }) => `${own} × ${count}`);
    expect(plan('x[3]', 'x[4]', 'x[9]')).toEqual(['x[3] × 7']);
    expect(plan('x[3]', 'x[100]')).toEqual(['x[3] × 1', 'x[100] × 1']);
    expect(plan('x[0,3]', 'x[1,4]')).toEqual(['x[0,3] × 1', 'x[1,4] × 1']);
  });

  test('leaves what is larger than a message to fragments', () => {
    const [item] = planReads([{ key: 'a', path: { steps: ['t'], bit: null }, type: typeOf('STRING(600)') }], 476);
    expect(item && needsFragments(item, { request: 500, reply: 500 })).toBe(true);
    expect(item && needsFragments(item, { request: 4000, reply: 4000 })).toBe(false);
  });
});

test('a type word tells structure, dimensions and code', () => {
  expect(readTypeWord(0x8fce)).toEqual({ template: 0xfce, code: 0, dimensions: 0, isSystem: false });
  expect(readTypeWord(0x40c4)).toEqual({ template: null, code: 0xc4, dimensions: 2, isSystem: false });
  expect(readTypeWord(0x1068)).toMatchObject({ isSystem: true });
});
