/** What the recorder promises: ten thousand tags a second for hours in little room, and any moment found at once. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { LiveTable } from '@/runtime/liveTable.ts';
import { Recorder } from '@/services/checks/recorder.ts';
import { RecordingRing } from '@/store/recordingRing.ts';
import type { Figure } from './figure.ts';

const TAGS = 10_000;
/** Of the eight; each is like the others. */
const HOURS = 1;
const BEGIN = 1_796_000_000_000;
const LOOKS = 60;

/** As a plant has them: counts that wander, reals with the noise of a 16-bit card, states that change now and then, counters, and what stays. */
const MIX = [
  { type: 'INT', share: 0.35, what: 'counts that wander' },
  { type: 'REAL', share: 0.25, what: 'reals with the noise of a card' },
  { type: 'WORD', share: 0.2, what: 'states, one of a hundred a second' },
  { type: 'UDINT', share: 0.1, what: 'counters' },
  { type: 'LINT', share: 0.1, what: 'what stays' },
] as const;

interface Plant {
  readonly id: string;
  readonly kind: (typeof MIX)[number]['type'];
  readonly bytes: Uint8Array;
  readonly signal: EffectiveSignal;
  value: number;
}

export async function* recording(): AsyncIterable<Figure> {
  const folder = mkdtempSync(join(tmpdir(), 'recording-'));
  try {
    yield* measured(folder);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function* measured(folder: string): AsyncIterable<Figure> {
  const random = xorshift(20261201);
  const plants = Array.from({ length: TAGS }, (_, i) => plantOf(i, random));
  const byId = new Map(plants.map((plant) => [plant.id, plant]));
  let now = BEGIN;
  let hear: (tagId: string) => void = () => undefined;
  const due: { at: number; call: () => void }[] = [];
  const clock = {
    now: () => now,
    after(ms: number, call: () => void) {
      const one = { at: now + ms, call };
      due.push(one);
      return () => void due.splice(due.indexOf(one), 1);
    },
  };
  const model = {
    all: () => plants.map(({ id }) => ({ id })),
    get: (kind: string, id: string) => (kind === 'device' ? {} : { id, source: { kind: 'point', deviceId: 'd' } }),
    effective: (id: string) => ({ ok: true, value: byId.get(id)?.signal }),
  } as unknown as ProjectModel;
  const live = {
    wireOf: (id: string) => {
      const plant = byId.get(id);
      return plant ? { at: now, bytes: plant.bytes, reason: '', signal: plant.signal } : null;
    },
    onSample(listener: (tagId: string) => void) {
      hear = listener;
      return () => undefined;
    },
  } as unknown as LiveTable;
  const recorder = new Recorder(model, live, clock, await RecordingRing.open(folder), {
    load: async () => ({ deviceIds: ['d'], hours: 8, megabytes: 500 }),
    keep: async () => undefined,
  });
  await recorder.start();
  let slowestMs = 0;
  let takingMs = 0;
  for (let second = 0; second < HOURS * 3600; second++) {
    now += 1000;
    for (const plant of plants) moved(plant, random);
    const begun = performance.now();
    for (const { id } of plants) hear(id);
    const ms = performance.now() - begun;
    takingMs += ms;
    slowestMs = Math.max(slowestMs, ms);
    for (const one of due.filter(({ at }) => at <= now)) {
      due.splice(due.indexOf(one), 1);
      one.call();
    }
    // What is in hand is written before more comes than a disk of today takes.
    if (second % 60 === 59) await recorder.flush();
  }
  await recorder.flush();
  const megabytes = recorder.state.bytes / 1e6;
  const mix = MIX.map(({ share, type, what }) => `${share * 100} % ${type}, ${what}`).join('; ');
  yield {
    name: 'recording: room for 10 000 tags a second for 8 hours, against 500 MB',
    ratio: (megabytes * 8) / HOURS / 500,
    wanted: 1,
    atMost: true,
    detail: `${megabytes.toFixed(1)} MB for ${HOURS} hour, measured; ${((recorder.state.bytes / TAGS / HOURS / 3600) * 1).toFixed(2)} bytes a value; ${mix}`,
  };
  yield {
    name: 'recording: share of a core that taking a second of them costs',
    ratio: takingMs / (HOURS * 3600 * 1000),
    wanted: 0.1,
    atMost: true,
    detail: `${(takingMs / (HOURS * 3600)).toFixed(1)} ms a second, slowest ${slowestMs.toFixed(0)} ms`,
  };
  const times: number[] = [];
  for (let i = 0; i < LOOKS; i++) {
    const moment = BEGIN + Math.floor(random() * HOURS * 3_600_000);
    const begun = performance.now();
    const found = await recorder.at(moment, [plants[Math.floor(random() * TAGS)]?.id ?? '']);
    times.push(performance.now() - begun);
    if (found.length !== 1) throw new Error('a moment was not found');
  }
  times.sort((a, b) => a - b);
  yield {
    name: 'recording: any moment found, against 200 ms, the slowest of 60',
    ratio: (times.at(-1) ?? 0) / 200,
    wanted: 1,
    atMost: true,
    detail: `median ${(times[LOOKS / 2] ?? 0).toFixed(0)} ms, slowest ${(times.at(-1) ?? 0).toFixed(0)} ms`,
  };
}

function plantOf(i: number, random: () => number): Plant {
  let share = 0;
  const kind = (MIX.find((each) => i / TAGS < (share += each.share)) ?? MIX[0]).type;
  const type = parseDataType(kind);
  if (!type.ok) throw new Error(type.problem.message);
  const def = { type: type.value, order: 'ABCDEFGH'.slice(0, type.value.bytes), bit: null, scale: AS_IS, unit: '°C', decimals: 1, range: null };
  const signal = { def, span: { key: '', area: 'HR', from: i * 64, to: i * 64 + 32 } } as unknown as EffectiveSignal;
  return {
    id: `0190a000-0000-7000-8000-${String(i).padStart(12, '0')}`,
    kind,
    bytes: new Uint8Array(type.value.bytes),
    signal,
    value: Math.floor(random() * 20_000),
  };
}

function moved(plant: Plant, random: () => number): void {
  const view = new DataView(plant.bytes.buffer);
  switch (plant.kind) {
    case 'INT':
      plant.value = Math.max(0, Math.min(27_648, plant.value + Math.round((random() - 0.5) * 6)));
      view.setInt16(0, plant.value);
      break;
    case 'REAL':
      plant.value = Math.max(0, plant.value + (random() - 0.5) * 4);
      // A card of 16 bits, scaled to degrees.
      view.setFloat32(0, (Math.round(plant.value + (random() - 0.5) * 3) * 150) / 27_648);
      break;
    case 'WORD':
      if (random() < 0.01) view.setUint16(0, view.getUint16(0) ^ (1 << Math.floor(random() * 16)));
      break;
    case 'UDINT':
      plant.value += Math.floor(random() * 3);
      view.setUint32(0, plant.value);
      break;
    default:
      view.setBigInt64(0, BigInt(plant.value));
  }
}

/** Marsaglia, Xorshift RNGs (2003). */
function xorshift(seed: number): () => number {
  let state = seed;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}
