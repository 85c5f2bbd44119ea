import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readRequest } from '@/core/modbus/pdu.ts';
import { buildSerialFrame } from '@/core/modbus/serialFrame.ts';
import { buildFrame } from '@/core/modbus/tcpFrame.ts';
import { pcapOf, type CapturedFrame, type Encapsulation } from '@/core/trace/pcap.ts';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'mill-latch-pcap-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const reply = Uint8Array.of(3, 4, 0x47, 0xf1, 0x20, 0);
const pair = (wrap: (pdu: Uint8Array) => Uint8Array): CapturedFrame[] => [
  { at: 1_764_000_000_000.25, direction: 'sent', bytes: wrap(readRequest('HR', 17, 2)) },
  { at: 1_764_000_000_004.5, direction: 'received', bytes: wrap(reply) },
];
/** What Debian's tshark reads in a capture, a line for each frame. */
function seen(frames: CapturedFrame[], way: Encapsulation, args: readonly string[], fields: readonly string[]): string[][] {
  const file = join(folder, 'a.pcap');
  writeFileSync(file, pcapOf(frames, way));
  const out = execFileSync('tshark', ['-r', file, ...args, '-T', 'fields', ...fields.flatMap((f) => ['-e', f])], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  return out
    .trimEnd()
    .split('\n')
    .map((line) => line.split('\t'));
}

describe('a capture, read by tshark', () => {
  test('Modbus TCP opens as it is, with request, reply, times and right check sums', () => {
    const frames = pair((pdu) => buildFrame(7, 1, pdu));
    const fields = [
      'modbus.func_code',
      'modbus.reference_num',
      'modbus.word_cnt',
      'mbtcp.trans_id',
      'mbtcp.unit_id',
      'ip.checksum.status',
      'tcp.checksum.status',
    ];
    const checked = ['-o', 'tcp.check_checksum:TRUE', '-o', 'ip.check_checksum:TRUE'];
    const [asked, answered] = seen(frames, { kind: 'tcp', port: 502 }, checked, [...fields, 'frame.time_delta']);
    expect(asked?.slice(0, 7)).toEqual(['3', '17', '2', '7', '1', '1', '1']);
    expect([answered?.[0], answered?.[3], answered?.[5], answered?.[6]]).toEqual(['3', '7', '1', '1']);
    expect(Number(answered?.[7])).toBeCloseTo(0.00425, 5);
  });
  test('another port is read when it is said which', () => {
    const frames = pair((pdu) => buildFrame(9, 1, pdu));
    expect(seen(frames, { kind: 'tcp', port: 15020 }, ['-d', 'tcp.port==15020,mbtcp'], ['mbtcp.trans_id'])).toEqual([['9'], ['9']]);
  });
  test('datagrams', () => {
    const frames = pair((pdu) => buildFrame(3, 5, pdu));
    expect(
      seen(frames, { kind: 'udp', port: 502 }, ['-d', 'udp.port==502,mbudp'], ['modbus.func_code', 'mbtcp.unit_id', 'udp.checksum.status'])[0]?.[0],
    ).toBe('3');
  });
  test('RTU frames of a serial line, under the user link type', () => {
    const frames = pair((pdu) => buildSerialFrame('rtu', 4, pdu));
    const decode = ['-o', 'uat:user_dlts:"User 0 (DLT=147)","mbrtu","0","","0",""'];
    expect(seen(frames, { kind: 'serial' }, decode, ['mbrtu.unit_id', 'modbus.func_code'])).toEqual([
      ['4', '3'],
      ['4', '3'],
    ]);
  });
  test('RTU frames through a gateway', () => {
    const frames = pair((pdu) => buildSerialFrame('rtu', 6, pdu));
    expect(seen(frames, { kind: 'tcp', port: 4001 }, ['-d', 'tcp.port==4001,mbrtu'], ['mbrtu.unit_id', 'modbus.func_code'])).toEqual([
      ['6', '3'],
      ['6', '3'],
    ]);
  });
});
