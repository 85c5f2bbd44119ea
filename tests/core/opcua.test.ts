/** Node ids, types and status codes of OPC UA, against the standard's numbers and another library's tables. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AcknowledgeMessage, DataType, HelloMessage, packTcpMessage, setWarningLogger, StatusCodes, TCPErrorMessage } from 'node-opcua';
import { canHold, typeOfBuiltIn } from '@/core/opcua/dataTypes.ts';
import { buildHello, readHelloAnswer } from '@/core/opcua/hello.ts';
import { addressOfNode, formatNodeAddress, nodeIdIn, parseMember, parseNodeAddress } from '@/core/opcua/nodeId.ts';
import { severityOf, statusInWords } from '@/core/opcua/statusCode.ts';
import { parseDataType } from '@/core/value/dataType.ts';

// It warns, after a while, of what this Node does not do.
setWarningLogger(() => undefined);

const MILL = 'http://quern-hollow.example/mill';
const TABLE = ['http://opcfoundation.org/UA/', 'urn:this:server', MILL];

describe('a node id', () => {
  test.each([
    ['nsu=http://quern-hollow.example/mill;s=Weight', { namespace: MILL, id: 's=Weight', member: '' }],
    ['ns=2;s=Weight', { namespace: MILL, id: 's=Weight', member: '' }],
    ['i=2258', { namespace: '', id: 'i=2258', member: '' }],
    ['ns=0;i=2258', { namespace: '', id: 'i=2258', member: '' }],
    ['nsu=http://opcfoundation.org/UA/;i=85', { namespace: '', id: 'i=85', member: '' }],
    ['ns=2;s=Gates#[2]', { namespace: MILL, id: 's=Gates', member: '[2]' }],
    ['ns=2;s=Bagger#[1].weight', { namespace: MILL, id: 's=Bagger', member: '[1].weight' }],
    ['ns=2;s=Is it#1?', { namespace: MILL, id: 's=Is it#1?', member: '' }],
    ['ns=2;g=09087e75-8e5e-499b-954f-f2a9603db28a', { namespace: MILL, id: 'g=09087e75-8e5e-499b-954f-f2a9603db28a', member: '' }],
    ['ns=2;b=M/RbKBsRVkePCePcx24oRA==', { namespace: MILL, id: 'b=M/RbKBsRVkePCePcx24oRA==', member: '' }],
  ])('%s is read (IEC 62541-6, 5.3.1.10)', (text, address) => {
    expect(parseNodeAddress(text, TABLE)).toEqual({ ok: true, value: address });
  });

  test.each(['', 'Weight', 'ns=2', 'i=-1', 'i=4294967296', 'ns=7;s=Weight', 'nsu=;s=a', 'g=1234'])('“%s” is refused', (text) => {
    expect(parseNodeAddress(text, TABLE).ok).toBe(false);
  });

  test('keeps its namespace however the server numbers it', () => {
    const id = fc.oneof(
      fc.integer({ min: 0, max: 0xffff_ffff }).map((n) => `i=${n}`),
      fc
        .string({ minLength: 1, maxLength: 40 })
        .filter((s) => s.trim() === s && s !== '' && !/#/.test(s))
        .map((s) => `s=${s}`),
      fc.uuid().map((u) => `g=${u}`),
    );
    const member = fc.constantFrom('', '[0]', '[12].speed', '.a.b[3]');
    fc.assert(
      fc.property(id, member, fc.shuffledSubarray(['urn:a', 'urn:b', MILL], { minLength: 3, maxLength: 3 }), (node, inside, others) => {
        const address = { namespace: MILL, id: node, member: inside };
        expect(parseNodeAddress(formatNodeAddress(address))).toEqual({ ok: true, value: address });
        const table = ['http://opcfoundation.org/UA/', ...others];
        const now = nodeIdIn(address, table) ?? '';
        expect(now).toBe(`ns=${table.indexOf(MILL)};${node}`);
        expect(addressOfNode(now, table)).toEqual({ ...address, member: '' });
      }),
    );
    expect(nodeIdIn({ namespace: 'urn:gone', id: 'i=1', member: '' }, TABLE)).toBeNull();
    expect(parseMember('[2].weight')).toEqual([2, 'weight']);
  });
});

describe('a status code', () => {
  // IEC 62541-4, 7.39 and annex of 62541-6, from memory.
  test.each([
    [0x0000_0000, 'good'],
    [0x0030_0000, 'good'],
    [0x4090_0000, 'uncertain'],
    [0x800a_0000, 'bad'],
    [0x801f_0000, 'bad'],
    [0x8034_0000, 'bad'],
    [0x8074_0000, 'bad'],
  ])('%d is %s', (code, severity) => expect(severityOf(code)).toBe(severity));

  test('has the severity that its name says, every one of the standard’s table as another library has it', () => {
    const all = Object.values(StatusCodes as unknown as Record<string, { value: number; name: string }>).filter(
      (code) => typeof code.value === 'number',
    );
    expect(all.length).toBeGreaterThan(200);
    for (const code of all) {
      expect([code.name, severityOf(code.value)]).toEqual([code.name, /^(Good|Uncertain|Bad)/.exec(code.name)?.[0].toLowerCase()]);
      expect(statusInWords(code.name).message).toContain(code.name);
    }
  });
});

describe('a type', () => {
  test('that holds what a variable holds is a type of ours, and can hold it', () => {
    const names = Object.keys(DataType).filter((name) => /^[A-Z]/.test(name));
    const held = names.filter((name) => typeOfBuiltIn(name) !== null);
    expect(held).toEqual(expect.arrayContaining(['Boolean', 'Int64', 'UInt64', 'Double', 'String', 'DateTime']));
    for (const name of held) {
      const type = parseDataType(typeOfBuiltIn(name) ?? '');
      expect([name, type.ok && canHold(type.value, name)]).toEqual([name, true]);
    }
  });
  test('of whole numbers holds no Double, though it may be whole just now; and a number is no text', () => {
    const of = (name: string) => {
      const type = parseDataType(name);
      if (!type.ok) throw new Error(type.problem.message);
      return type.value;
    };
    expect([canHold(of('INT'), 'Double'), canHold(of('REAL'), 'Int32'), canHold(of('STRING(8)'), 'Int32'), canHold(of('BOOL'), 'Byte')]).toEqual([
      false,
      false,
      false,
      false,
    ]);
  });
});

describe('hello and what answers it (IEC 62541-6, 7.1.2)', () => {
  const packed = (type: string, message: Parameters<typeof packTcpMessage>[1]): Uint8Array => new Uint8Array(packTcpMessage(type, message));
  const sizes = { protocolVersion: 0, receiveBufferSize: 65_535, sendBufferSize: 65_535, maxMessageSize: 0, maxChunkCount: 0 };
  const acknowledged = packed('ACK', new AcknowledgeMessage({ ...sizes, sendBufferSize: 8192 }));
  const refused = packed('ERR', new TCPErrorMessage({ statusCode: StatusCodes.BadTcpEndpointUrlInvalid, reason: 'elsewhere' }));

  test('are the bytes of another maker', () => {
    const endpointUrl = 'opc.tcp://127.0.0.1:4840/mühle';
    expect(buildHello(endpointUrl)).toEqual(packed('HEL', new HelloMessage({ ...sizes, endpointUrl })));
    expect(readHelloAnswer(acknowledged)).toEqual({ kind: 'acknowledge', receiveBytes: 65_535, sendBytes: 8192 });
    expect(readHelloAnswer(refused)).toEqual({ kind: 'error', status: StatusCodes.BadTcpEndpointUrlInvalid.value, reason: 'elsewhere' });
  });
  test('cut anywhere they wait for the rest; what is none is a stranger', () => {
    for (const whole of [acknowledged, refused])
      for (let length = 0; length < whole.length; length++) expect(readHelloAnswer(whole.subarray(0, length)).kind).toBe('cut');
    expect(readHelloAnswer(new TextEncoder().encode('HTTP/1.1 400 Bad Request')).kind).toBe('stranger');
    expect(readHelloAnswer(Uint8Array.of(0x41, 0x43, 0x4b, 0x46, 4, 0, 0, 0)).kind).toBe('stranger');
  });
  test('100 000 random answers are one of these, and never fail', () => {
    const kinds = new Set(['acknowledge', 'error', 'stranger', 'cut']);
    const head = fc.constantFrom([], [...new TextEncoder().encode('ACKF')], [...new TextEncoder().encode('ERRF')]);
    fc.assert(
      fc.property(head, fc.uint8Array({ maxLength: 40 }), (start, rest) => kinds.has(readHelloAnswer(Uint8Array.from([...start, ...rest])).kind)),
      { numRuns: 100_000 },
    );
  });
});
