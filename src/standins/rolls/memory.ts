/**
 * The registers of one flaking stand, laid out by hand as its drive would: whole steps, low words first, states in a
 * word. Written apart from the product's encoder on purpose.
 */
import type { Told } from '../controlChannel.ts';
import type { Memory } from '../modbusServer.ts';
import type { StandState } from './process.ts';

const HOLDING = 24;

export function standMemory(stand: StandState, n: number): { readonly memory: Memory; readonly refresh: () => void } {
  const hr = Buffer.alloc(HOLDING * 2);
  const ir = Buffer.alloc(2 * 2);
  const coils = new Uint8Array(4);
  const discrete = new Uint8Array(4);
  const lowWordFirst = (at: number, value: number): void => {
    hr.writeUInt16BE(value & 0xffff, at * 2);
    hr.writeUInt16BE(Math.floor(value / 65536) & 0xffff, at * 2 + 2);
  };
  const refresh = (): void => {
    hr.writeUInt16BE(Math.round(stand.gapSp * 1000), 0);
    hr.writeUInt16BE(Math.round(stand.gap * 1000), 2);
    hr.writeUInt16BE(Math.round(stand.feedSp * 10), 4);
    hr.writeUInt16BE(Math.round(stand.feed * 10), 6);
    hr.writeUInt16BE(Math.round(stand.speed), 8);
    const amps = Buffer.alloc(4);
    amps.writeFloatBE(stand.current);
    amps.copy(hr, 10, 2, 4);
    amps.copy(hr, 12, 0, 2);
    hr.writeInt16BE(Math.round(stand.tempFront * 10), 14);
    hr.writeInt16BE(Math.round(stand.tempRear * 10), 16);
    hr.writeUInt16BE(Math.round(stand.pressure * 10), 18);
    hr.writeUInt16BE((stand.isRunning ? 1 : 0) | (stand.isEngaged ? 2 : 0) | (stand.current > 150 ? 4 : 0), 20);
    lowWordFirst(11, Math.floor(stand.runSeconds));
    lowWordFirst(13, Math.floor(stand.flakes));
    hr.writeUInt16BE(8100 + n, 40);
    ir.writeUInt16BE(Math.round(stand.vibration * 100), 0);
    coils.set([stand.isRunning, stand.isEngaged].map(Number));
    discrete.set([1, Number(stand.speed > 400)]);
  };
  const written = (area: 'holding' | 'coils', start: number): void => {
    if (area === 'coils') {
      stand.isRunning = coils[0] === 1;
      stand.isEngaged = coils[1] === 1;
    } else if (start <= 2) {
      stand.gapSp = Math.min(3, Math.max(0.15, hr.readUInt16BE(0) / 1000));
      stand.feedSp = Math.min(100, hr.readUInt16BE(4) / 10);
    }
    refresh();
  };
  refresh();
  const memory: Memory = {
    holding: hr,
    input: ir,
    coils,
    discrete,
    missing: (register) => register >= 15 && register < 20,
    written,
    identity: ['Quern Hollow Works', `FLAKER ${n}`, '1.7'],
  };
  return { memory, refresh };
}

/** Values by name, with the number of the stand before them: `s3_gap`. */
export function tellStand(stand: StandState, n: number): Readonly<Record<string, Told>> {
  const values: Readonly<Record<string, Told>> = {
    gap_sp: { value: stand.gapSp, unit: 'mm' },
    gap: { value: stand.gap, unit: 'mm' },
    feed_sp: { value: stand.feedSp, unit: '%' },
    feed: { value: stand.feed, unit: '%' },
    speed: { value: stand.speed, unit: 'rpm' },
    current: { value: stand.current, unit: 'A' },
    temp_front: { value: stand.tempFront, unit: '°C' },
    temp_rear: { value: stand.tempRear, unit: '°C' },
    pressure: { value: stand.pressure, unit: 'bar' },
    running: { value: stand.isRunning, unit: '' },
    engaged: { value: stand.isEngaged, unit: '' },
    run_time: { value: Math.floor(stand.runSeconds), unit: 's' },
    flakes: { value: Math.floor(stand.flakes), unit: 'kg' },
    vibration: { value: stand.vibration, unit: 'mm/s' },
    run_cmd: { value: stand.isRunning, unit: '' },
    engage_cmd: { value: stand.isEngaged, unit: '' },
  };
  return Object.fromEntries(Object.entries(values).map(([name, told]) => [`s${n}_${name}`, told]));
}
