/**
 * The kiln's register memory, laid out by hand as its controller program would: raw counts, mixed word orders,
 * bits packed in words. Written apart from the product's encoder on purpose.
 */
import type { Memory } from '../modbusServer.ts';
import type { Told } from '../controlChannel.ts';
import { ownList } from './ownList.ts';
import type { KilnState } from './process.ts';

const HOLDING = 140;
/** On the plate of the cabinet. */
const SERIAL = 407_133;
/** Counts of an analogue card for its full range. */
const FULL = 27648;

/** The last batch: 41 min 12 s 500 ms long, on 2026-03-01 from 06:12:30; its shift began at 6, a cycle takes 12.5 ms. */
const LAST_BATCH = { tookMs: 2_472_500, day: 1_772_323_200, cycleNs: 12_500_000, shiftMs: 21_600_000, begun: 1_772_345_550 };

/** The bagging counter of the line, in digits; the trim of its last service, the sign apart; the meter, a thousand and ten thousand apart. */
const OLD_PARTS = { sacks: 12_043_771, trim: -125, meterKwh: 4_821_377, stage: 3, kind: 'THICK 4', mill: 'Quern', service: 13_208 };

export function kilnMemory(kiln: KilnState): {
  readonly memory: Memory;
  readonly refresh: () => void;
  readonly tell: () => Readonly<Record<string, Told>>;
  readonly set: (name: string, value: unknown) => boolean;
} {
  const hr = Buffer.alloc(HOLDING * 2);
  const ir = Buffer.alloc(12 * 2);
  const coils = new Uint8Array(8);
  const inputs = new Uint8Array(8);

  const counts = (value: number, span: number): number => Math.max(-32768, Math.min(32767, Math.round((value * FULL) / span)));
  const lowWordFirst = (at: number, high: number, low: number): void => {
    hr.writeUInt16BE(low, at * 2);
    hr.writeUInt16BE(high, at * 2 + 2);
  };
  const realLowWordFirst = (buffer: Buffer, at: number, value: number): void => {
    const b = Buffer.alloc(4);
    b.writeFloatBE(value);
    b.copy(buffer, at * 2, 2, 4);
    b.copy(buffer, at * 2 + 2, 0, 2);
  };
  const eight = (fill: (b: Buffer) => void): Buffer => {
    const b = Buffer.alloc(8);
    fill(b);
    return b;
  };
  const text = (at: number, chars: number, value: string, swapped: boolean): void => {
    const b = Buffer.alloc(chars);
    b.write(value.slice(0, chars), 'latin1');
    if (swapped) b.swap16();
    b.copy(hr, at * 2);
  };

  const refresh = (): void => {
    hr.writeInt16BE(counts(kiln.bedTempIn, 150), 0);
    hr.writeInt16BE(counts(kiln.bedTempMid, 150), 2);
    hr.writeInt16BE(counts(kiln.bedTempSp, 150), 4);
    realLowWordFirst(hr, 17, kiln.bedTemp);
    realLowWordFirst(hr, 19, kiln.bedTempOut);
    hr.writeInt16BE(Math.round(kiln.steamPress * 100), 42);
    hr.writeUInt16BE(Math.round(kiln.fanSpeedSp), 44);
    hr.writeUInt16BE(Math.round(kiln.fanSpeed), 46);
    hr.writeInt16BE(Math.round(kiln.moistureIn * 10), 48);
    hr.writeInt16BE(Math.round(kiln.moistureOut * 10), 50);
    hr.writeInt16BE(Math.round(kiln.moistureSp * 10), 52);
    hr.writeUInt16BE(Math.round(kiln.beltSpeedSp * 100), 54);
    hr.writeUInt16BE(Math.round(kiln.beltSpeed * 100), 56);
    hr.writeInt16BE(Math.round(kiln.beltLoad), 58);
    hr.writeUInt16BE((kiln.beltCommand ? 1 : 0) | (kiln.jam ? 2 : 0) | (kiln.guardOpen ? 8 : 0) | (Math.floor(kiln.seconds) % 2 ? 0x8000 : 0), 60);
    hr.writeUInt16BE((kiln.bedTemp > 120 ? 1 : 0) | (kiln.steamPress < 1 ? 2 : 0), 62);
    hr[64] = kiln.zoneOffset & 0xff;
    hr[65] = kiln.fanTrim;
    hr[67] = kiln.mode;
    hr.writeInt32BE(Math.floor(kiln.oatTotal), 68);
    lowWordFirst(36, Math.floor(kiln.rejects) >>> 16, Math.floor(kiln.rejects) & 0xffff);
    hr.writeUInt32BE(0x00c0_0005, 76);
    hr.writeBigInt64BE(kiln.dwellPreset, 80);
    const run = eight((b) => b.writeBigInt64BE(kiln.runTime));
    for (let word = 0; word < 4; word++) run.copy(hr, 88 + word * 2, 6 - word * 2, 8 - word * 2);
    eight((b) => b.writeBigUInt64BE(kiln.energy))
      .swap16()
      .copy(hr, 96);
    eight((b) => b.writeDoubleLE(kiln.flowTotal)).copy(hr, 104);
    hr.writeBigUInt64BE(0x8000_0000_0000_0001n, 112);
    text(60, 16, kiln.recipeName, false);
    text(68, 16, kiln.operator, true);
    lowWordFirst(76, kiln.batchNo >>> 16, kiln.batchNo & 0xffff);
    hr.writeUInt16BE(Math.floor(kiln.freeCount) & 0xffff, 156);
    hr.writeFloatBE(kiln.steamFlow, 160);
    const exhaust = Buffer.alloc(4);
    exhaust.writeFloatBE(kiln.exhaustTemp);
    exhaust.swap16().copy(hr, 164);
    hr.writeFloatLE(kiln.gasFlow, 168);
    hr.writeInt16BE(Math.round(kiln.steamPressSp * 100), 172);
    hr.writeFloatBE(kiln.heatPower, 180);
    hr.writeUInt32BE(SERIAL, 184);
    hr.writeUInt16BE(kiln.panelLife, 188);
    // Milliseconds, seconds since 1970, nanoseconds, milliseconds since midnight, seconds since 1970.
    hr.writeInt32BE(LAST_BATCH.tookMs, 190);
    hr.writeUInt32BE(LAST_BATCH.day, 194);
    hr.writeBigInt64BE(BigInt(LAST_BATCH.cycleNs), 210);
    hr.writeUInt32BE(LAST_BATCH.shiftMs, 218);
    hr.writeUInt32BE(LAST_BATCH.begun, 222);
    oldParts(hr);
    ir.writeInt16BE(Math.round(kiln.ambientTemp * 10), 0);
    ir.writeUInt16BE(Math.round(kiln.humidity * 10), 2);
    ir.writeInt16BE(Math.round(kiln.motorAmps * 10), 4);
    // 4 to 20 mA on a card of 0 to 27648 counts for 0 to 20 mA: 4 mA is 5529.6 counts.
    ir.writeInt16BE(kiln.binWireBroken ? 0 : Math.round(5529.6 + (kiln.binLevel / 100) * (FULL - 5529.6)), 6);
    realLowWordFirst(ir, 4, kiln.filterPressure);
    ir.writeUInt16BE(Math.round(kiln.vibration * 100), 12);
    coils.set([kiln.fanCommand, kiln.beltCommand, kiln.steamCommand, kiln.lampTest, kiln.beltJog].map(Number));
    inputs.set([1, kiln.guardOpen ? 0 : 1, 1, kiln.steamPress > 1 ? 1 : 0, kiln.binLevel > 75 ? 1 : 0, kiln.binLevel < 40 ? 1 : 0]);
  };

  /** A controller takes what was written into its process at its next cycle. */
  const written = (area: 'holding' | 'coils', start: number, count: number): void => {
    const touched = (at: number, words = 1): boolean => start < at + words && at < start + count;
    if (area === 'coils') {
      kiln.fanCommand = coils[0] === 1;
      kiln.beltCommand = coils[1] === 1;
      kiln.steamCommand = coils[2] === 1;
      kiln.lampTest = coils[3] === 1;
      kiln.beltJog = coils[4] === 1;
      return;
    }
    if (touched(2)) kiln.bedTempSp = (hr.readInt16BE(4) * 150) / FULL;
    if (touched(22)) kiln.fanSpeedSp = Math.min(1800, hr.readUInt16BE(44));
    if (touched(26)) kiln.moistureSp = hr.readInt16BE(52) / 10;
    if (touched(27)) kiln.beltSpeedSp = hr.readUInt16BE(54) / 100;
    if (touched(40, 4)) kiln.dwellPreset = hr.readBigInt64BE(80);
    if (touched(60, 8)) kiln.recipeName = hr.toString('latin1', 120, 136).replace(/\0.*$/s, '');
    if (touched(86)) kiln.steamPressSp = hr.readInt16BE(172) / 100;
    if (touched(94)) kiln.panelLife = hr.readUInt16BE(188);
    refresh();
  };

  const tell = (): Readonly<Record<string, Told>> => {
    const n = (value: number, unit = ''): Told => ({ value, unit });
    return {
      bed_temp_in: n(kiln.bedTempIn, '°C'),
      bed_temp_mid: n(kiln.bedTempMid, '°C'),
      bed_temp_sp: n(kiln.bedTempSp, '°C'),
      bed_temp: n(kiln.bedTemp, '°C'),
      bed_temp_out: n(kiln.bedTempOut, '°C'),
      exhaust_temp: n(kiln.exhaustTemp, '°C'),
      steam_press: n(kiln.steamPress, 'bar'),
      steam_press_sp: n(kiln.steamPressSp, 'bar'),
      steam_flow: n(kiln.steamFlow, 'kg/h'),
      gas_flow: n(kiln.gasFlow, 'm³/h'),
      heat_power: n(kiln.heatPower, 'kW'),
      fan_speed_sp: n(kiln.fanSpeedSp, 'rpm'),
      fan_speed: n(kiln.fanSpeed, 'rpm'),
      fan_trim: n(kiln.fanTrim, '%'),
      zone_offset: n(kiln.zoneOffset, 'K'),
      moisture_in: n(kiln.moistureIn, '%'),
      moisture_out: n(kiln.moistureOut, '%'),
      moisture_sp: n(kiln.moistureSp, '%'),
      belt_speed_sp: n(kiln.beltSpeedSp, 'm/s'),
      belt_speed: n(kiln.beltSpeed, 'm/s'),
      belt_load: n(kiln.beltLoad, '%'),
      belt_running: { value: kiln.beltCommand, unit: '' },
      belt_jam: { value: kiln.jam, unit: '' },
      guard_open: { value: kiln.guardOpen, unit: '' },
      beat: { value: Math.floor(kiln.seconds) % 2 === 1, unit: '' },
      high_temp: { value: kiln.bedTemp > 120, unit: '' },
      low_steam: { value: kiln.steamPress < 1, unit: '' },
      mode: n(kiln.mode),
      oat_total: n(Math.floor(kiln.oatTotal), 'kg'),
      rejects: n(Math.floor(kiln.rejects), 'kg'),
      batch_no: n(kiln.batchNo),
      free_count: n(Math.floor(kiln.freeCount) & 0xffff),
      status_double: n(0x00c0_0005),
      status_wide: { value: '9223372036854775809', unit: '' },
      dwell_preset: { value: nanoseconds(kiln.dwellPreset), unit: 's' },
      run_time: { value: nanoseconds(kiln.runTime), unit: 's' },
      energy: { value: kiln.energy.toString(), unit: 'Wh' },
      flow_total: n(kiln.flowTotal, 't'),
      recipe_name: { value: kiln.recipeName, unit: '' },
      operator_name: { value: kiln.operator, unit: '' },
      ambient_temp: n(kiln.ambientTemp, '°C'),
      humidity: n(kiln.humidity, '%'),
      motor_amps: n(kiln.motorAmps, 'A'),
      bin_level: n(kiln.binLevel, '%'),
      filter_press: n(kiln.filterPressure, 'mbar'),
      vibration: n(kiln.vibration, 'mm/s'),
      fan_cmd: { value: kiln.fanCommand, unit: '' },
      belt_cmd: { value: kiln.beltCommand, unit: '' },
      steam_cmd: { value: kiln.steamCommand, unit: '' },
      lamp_test: { value: kiln.lampTest, unit: '' },
      belt_jog: { value: kiln.beltJog, unit: '' },
      serial_no: n(SERIAL),
      panel_life: n(kiln.panelLife),
      batch_time: n(LAST_BATCH.tookMs),
      batch_day: n(LAST_BATCH.day),
      cycle_time: { value: String(LAST_BATCH.cycleNs), unit: '' },
      shift_begin: n(LAST_BATCH.shiftMs),
      batch_begun: n(LAST_BATCH.begun),
      sack_count: n(OLD_PARTS.sacks),
      trim_angle: n(OLD_PARTS.trim),
      meter_total: n(OLD_PARTS.meterKwh, 'kWh'),
      recipe_stage: n(OLD_PARTS.stage),
      oat_kind: { value: OLD_PARTS.kind, unit: '' },
      mill_name: { value: OLD_PARTS.mill, unit: '' },
      service_day: n(OLD_PARTS.service),
      stop_ok: { value: true, unit: '' },
      door_closed: { value: !kiln.guardOpen, unit: '' },
      tension_ok: { value: true, unit: '' },
      steam_ok: { value: kiln.steamPress > 1, unit: '' },
      level_high: { value: kiln.binLevel > 75, unit: '' },
      level_low: { value: kiln.binLevel < 40, unit: '' },
    };
  };

  refresh();
  // Registers 100 to 104 are a hole in the controller's map.
  const memory: Memory = {
    holding: hr,
    input: ir,
    coils,
    discrete: inputs,
    missing: (register) => register >= 100 && register <= 104,
    written,
    identity: ['Quern Hollow Works', 'KILN', '2.4'],
    files: new Map([[1, ownList()]]),
  };
  /** What its own program may do by itself. */
  const set = (name: string, value: unknown): boolean => {
    if (name === 'belt_cmd' && typeof value === 'boolean') kiln.beltCommand = value;
    else if (name === 'fan_cmd' && typeof value === 'boolean') kiln.fanCommand = value;
    else if (name === 'bin_wire_broken' && typeof value === 'boolean') kiln.binWireBroken = value;
    else if (name === 'bed_temp_sp' && typeof value === 'number') kiln.bedTempSp = value;
    else if (name === 'ambient_temp' && typeof value === 'number') kiln.ambientTemp = value;
    else return false;
    refresh();
    return true;
  };
  return { memory, refresh, tell, set };
}

/** Parts of the kiln that are older than its controller, each with a way of its own to hold a value. */
function oldParts(hr: Buffer): void {
  // Eight digits, four bits each.
  hr.write(String(OLD_PARTS.sacks).padStart(8, '0'), 240, 'hex');
  // The highest bit is the sign.
  hr.writeUInt16BE(0x8000 | -OLD_PARTS.trim, 244);
  // Each register counts to 9999, the larger one first.
  hr.writeUInt16BE(Math.floor(OLD_PARTS.meterKwh / 10_000), 246);
  hr.writeUInt16BE(OLD_PARTS.meterKwh % 10_000, 248);
  // Bits 4 to 7 are the stage; the others are flags of its own.
  hr.writeUInt16BE(0x0101 | (OLD_PARTS.stage << 4), 250);
  // A text with its length in a byte in front, and one of two bytes a character.
  hr[252] = OLD_PARTS.kind.length;
  hr.write(OLD_PARTS.kind.padEnd(9, '\0'), 253, 'latin1');
  Buffer.from(OLD_PARTS.mill.padEnd(6, '\0'), 'utf16le').swap16().copy(hr, 262);
  // Days since 1990-01-01, in two bytes.
  hr.writeUInt16BE(OLD_PARTS.service, 274);
}

/** A count of nanoseconds as exact seconds. */
function nanoseconds(count: bigint): string {
  const text = count.toString().padStart(10, '0');
  return `${text.slice(0, -9)}.${text.slice(-9)}`;
}
