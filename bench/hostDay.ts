/**
 * A day of a panel host in minutes, as a process of its own: its clock runs faster, all else is real. Every three seconds of its day a person
 * writes a value that is kept, and an alarm comes or goes: all that is remembered is full within hours.
 * main.mjs --host-day PORT, with --expose-gc
 */
import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { v4 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { Clock } from '@/drivers/contract.ts';
import { openHost } from '../tests/support/hostHere.ts';
import { hostedPanel, HOSTED_IDS, sendTo } from '../tests/support/hostedPanel.ts';
import { newTag } from '../tests/support/newTag.ts';
import { newFolder } from '../tests/support/server.ts';

const TAGS = 1000;
const FASTER = 200;
const HOUR_MS = 3_600_000;
const HOURS = 24;
const WRITE_MS = 3000;
/** A slow answer by this clock is a quick one by the real one. */
const TIMEOUT_MS = 60_000;

export interface HourSeen {
  readonly hour: number;
  readonly heapMb: number;
  readonly residentMb: number;
  readonly filesKb: number;
  readonly requests: number;
}

/** As fast as the real one until it is told to run. */
function fastClock(): Clock & { run(): void } {
  let [begun, from, times] = [performance.now(), Date.now(), 1];
  const now = (): number => from + (performance.now() - begun) * times;
  return {
    now,
    after(ms, call) {
      const timer = setTimeout(call, Math.max(0, ms / times));
      return () => clearTimeout(timer);
    },
    run() {
      [begun, from, times] = [performance.now(), now(), FASTER];
    },
  };
}

export async function hostDay(port: number): Promise<void> {
  const clock = fastClock();
  const { folder, remove } = newFolder();
  const at = await openHost(folder, { clock });
  const bench = await at.pair('bench');
  const [linkId, deviceId] = [uuid(), uuid()];
  const changes: Change[] = [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'PLC', settings: { unit: 1 }, dialect: { timeoutMs: TIMEOUT_MS }, witnessUrl: '' } },
    ...Array.from({ length: TAGS }, (_, i): Change => ({
      kind: 'tag',
      id: uuid(),
      set: { ...newTag(deviceId, `tag_${i}`, `HR${i}`, { periodMs: 1000 }), type: 'UINT' },
    })),
    {
      kind: 'alarm',
      id: uuid(),
      set: {
        tagId: HOSTED_IDS.localId,
        settings: { template: 'Batch', condition: { kind: 'limit', side: 'above', limit: 100, hysteresis: 0 }, suppressed: null },
      },
    },
    {
      kind: 'element',
      id: uuid(),
      set: { pageId: HOSTED_IDS.pageId, kind: 'alarms', tagId: null, label: 'Alarms', x: 0, y: 100, w: 300, h: 200, settings: {} },
    },
  ];
  const sent = await sendTo(bench, hostedPanel('day', changes), null);
  if (!sent.ok) throw new Error(sent.problem.message);
  const services = at.host.running?.services;
  if (!services) throw new Error('it does not run');
  clock.run();
  let writes = 0;
  let isOver = false;
  const person = (): void => {
    if (isOver) return;
    writes++;
    void services.writes.write({ id: uuid(), tagId: HOSTED_IDS.localId, value: String(writes % 2 === 0 ? 50 : 150), writer: 'panel' });
    clock.after(WRITE_MS, person);
  };
  person();
  const begun = clock.now();
  for (let hour = 1; hour <= HOURS; hour++) {
    await new Promise<void>((resolve) => void clock.after(begun + hour * HOUR_MS - clock.now(), resolve));
    global.gc?.();
    const { heapUsed, rss } = process.memoryUsage();
    const files = readdirSync(folder).map((name) => statSync(join(folder, name)).size);
    const seen: HourSeen = {
      hour,
      heapMb: heapUsed / 1e6,
      residentMb: rss / 1e6,
      filesKb: files.reduce((sum, size) => sum + size, 0) / 1000,
      requests: services.engine.linkStatus()[0]?.requestsPerSecond ?? 0,
    };
    process.send?.(seen);
  }
  isOver = true;
  const good = services.engine.live.counts.good;
  process.send?.({ good, alarms: (await services.alarms.records({ limit: 5000 })).length, writes });
  await at.close();
  remove();
  process.exit(0);
}
