/** The plan of a bus: which requests read what, how long each takes, how busy the line is, and what would help. */
import { USUAL_TURNAROUND_MS } from '@/core/plan/lineTime.ts';
import { foreseeLoad, type LoadGroup } from '@/core/plan/lineLoad.ts';
import { isMissed, type BusAdvice, type BusGroup, type BusPlan } from '@/core/plan/busPlan.ts';
import type { Device, Link } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { DriverDescription, PointSpec, Settings } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { TracedFrame } from '@/runtime/trace.ts';

/** Counted where nothing was measured yet. */
const USUAL_ROUND_TRIP_MS = 2;
const FASTER = [38_400, 57_600, 115_200];
/** Less than this many points of a hundred is no help worth naming. */
const WORTH = 0.01;
/** The use of the line is measured over so long a time. */
const MEASURED_MS = 10_000;

interface Measured {
  /** Of the device, beside the line's own time; its whole round trip on a network. */
  readonly turnaroundMs: number;
  readonly isMeasured: boolean;
}

interface Estimated {
  readonly groups: readonly BusGroup[];
  readonly use: number;
}

/** @param periodMs as it is */
type PeriodOf = (periodMs: number) => number;
const ownPeriod: PeriodOf = (periodMs) => periodMs;

export class BusService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
  }

  plan(linkId: string): Result<BusPlan> {
    const link = this.#model.get('link', linkId);
    const driver = link && describeDriver(link.driver);
    if (!link || !driver) return fail('gone', 'The link is not there (any more).', 'Reload, and try again.');
    if (!driver.foresee) return fail('no-plan', 'This protocol plans no requests.', 'Its devices send by themselves.');
    // What is simulated takes none of its time.
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId && !d.isSimulated);
    const measured = new Map(devices.map((d) => [d.id, this.#measure(d, link, driver)]));
    const now = this.#foresee(driver, link.settings, devices, (d) => d.dialect, measured);
    const line = driver.line?.(link.settings) ?? null;
    return ok({
      line: line?.words ?? null,
      use: now.use,
      measuredUse: measuredUse(this.#engine.frames(linkId, Infinity), line?.silenceMs ?? 0, this.#engine.clock.now()),
      groups: now.groups,
      advice: this.#advise(driver, link, devices, measured, now),
    });
  }

  #foresee(
    driver: DriverDescription,
    settings: Settings,
    devices: readonly Device[],
    dialectOf: (device: Device) => Settings,
    measured: ReadonlyMap<string, Measured>,
    periodOf: PeriodOf = ownPeriod,
  ): Estimated {
    const groups: (Omit<BusGroup, 'reachedMs'> & { readonly load: LoadGroup })[] = [];
    for (const device of devices) {
      const dialect = dialectOf(device);
      const pauseMs = typeof dialect.pauseMs === 'number' ? dialect.pauseMs : 0;
      const own = measured.get(device.id) ?? { turnaroundMs: USUAL_TURNAROUND_MS, isMeasured: false };
      for (const [periodMs, points] of [...this.#pointsByPeriod(device, periodOf)].sort(([a], [b]) => a - b)) {
        const requests = (driver.foresee?.(settings, device.settings, dialect, points) ?? []).map((r) => ({
          area: r.area,
          start: r.start,
          count: r.count,
          used: r.used,
          tags: r.keys.length,
          foreseenMs: (r.lineMs ?? 0) + own.turnaroundMs + pauseMs,
          measuredMs: this.#roundTripOf(r.keys),
          foreseenRoundTripMs: (r.roundTripMs ?? 0) + own.turnaroundMs,
        }));
        groups.push({
          deviceId: device.id,
          device: device.name,
          periodMs,
          requests,
          totalMs: requests.reduce((sum, r) => sum + r.foreseenMs, 0),
          isMeasured: own.isMeasured,
          load: { device: device.id, periodMs, requestsMs: requests.map((r) => r.foreseenMs) },
        });
      }
    }
    const load = foreseeLoad(groups.map((g) => g.load));
    return { use: load.use, groups: groups.map(({ load: _load, ...g }, i) => ({ ...g, reachedMs: load.periodsMs[i] ?? null })) };
  }

  /** What a device needs by itself: its round trips beside the time that the bytes take. */
  #measure(device: Device, link: Link, driver: DriverDescription): Measured {
    const beside = [...this.#pointsByPeriod(device).values()]
      .flatMap((group) => driver.foresee?.(link.settings, device.settings, device.dialect, group) ?? [])
      .flatMap((request) => {
        const took = this.#roundTripOf(request.keys);
        return took === null ? [] : [Math.max(0, took - (request.roundTripMs ?? 0))];
      })
      .sort((a, b) => a - b);
    const median = beside[beside.length >> 1];
    if (median !== undefined) return { turnaroundMs: median, isMeasured: true };
    return { turnaroundMs: driver.line?.(link.settings) ? USUAL_TURNAROUND_MS : USUAL_ROUND_TRIP_MS, isMeasured: false };
  }

  #pointsByPeriod(device: Device, periodOf: PeriodOf = ownPeriod): ReadonlyMap<number, readonly PointSpec[]> {
    const byPeriod = new Map<number, PointSpec[]>();
    for (const point of this.#model.pointsOf(device.id)) {
      const signal = this.#model.effective(point.key);
      if (!signal.ok || !this.#engine.isRead(point.key, signal.value)) continue;
      const periodMs = periodOf(signal.value.periodMs);
      const points = byPeriod.get(periodMs) ?? [];
      points.push(point);
      byPeriod.set(periodMs, points);
    }
    return byPeriod;
  }

  /** The newest round trip of the request that read these points; null when none of them is good. */
  #roundTripOf(keys: readonly string[]): number | null {
    for (const key of keys) {
      const sample = this.#engine.live.get(key);
      if (sample && sample.quality.level !== 'bad' && sample.roundTripMs > 0) return sample.roundTripMs;
    }
    return null;
  }

  #advise(
    driver: DriverDescription,
    link: Link,
    devices: readonly Device[],
    measured: ReadonlyMap<string, Measured>,
    now: Estimated,
  ): readonly BusAdvice[] {
    const advice: BusAdvice[] = [];
    const offer = (what: string, then: Estimated): void => {
      const faster = (f: Estimated): number => f.groups.reduce((sum, g) => sum + (g.reachedMs ?? g.periodMs) / g.periodMs, 0);
      const isQuicker = faster(now) - faster(then) > 0.05 * now.groups.length;
      if (now.use - then.use > WORTH || (isQuicker && now.use >= 0.99))
        advice.push({ what, use: then.use, missing: then.groups.filter(isMissed).length });
    };
    const speed = Number(link.settings.speed ?? 0);
    if (driver.line?.(link.settings))
      for (const faster of FASTER)
        if (faster > speed)
          offer(
            `Set the line and all its devices to ${faster} bit/s`,
            this.#foresee(driver, { ...link.settings, speed: faster }, devices, (d) => d.dialect, measured),
          );
    const gap = 10;
    if (devices.some((d) => Number(d.dialect.maxGap ?? 0) < gap))
      offer(
        `Read across gaps of up to ${gap} addresses, where the devices allow it`,
        this.#foresee(driver, link.settings, devices, (d) => ({ ...d.dialect, maxGap: gap }), measured),
      );
    if (devices.some((d) => Number(d.dialect.pauseMs ?? 0) > 0))
      offer(
        'Leave the pause after each reply away, where the devices allow it',
        this.#foresee(driver, link.settings, devices, (d) => ({ ...d.dialect, pauseMs: 0 }), measured),
      );
    const heaviest = [...now.groups].sort((a, b) => b.totalMs / b.periodMs - a.totalMs / a.periodMs)[0];
    if (heaviest)
      offer(
        `Read what is read every ${seconds(heaviest.periodMs)} half as often`,
        this.#foresee(
          driver,
          link.settings,
          devices,
          (d) => d.dialect,
          measured,
          (periodMs) => (periodMs === heaviest.periodMs ? periodMs * 2 : periodMs),
        ),
      );
    return advice.sort((a, b) => a.missing - b.missing || a.use - b.use);
  }
}

function seconds(ms: number): string {
  return `${ms / 1000} s`;
}

/** Part of the last seconds in which a request was under way, from the trace; null when too little was seen. */
function measuredUse(frames: readonly TracedFrame[], silenceMs: number, now: number): number | null {
  const begun = Math.max(now - MEASURED_MS, frames[0]?.at ?? now);
  if (now - begun < 2000) return null;
  let busy = 0;
  let sentAt: number | null = null;
  for (const { direction, at } of frames) {
    if (at < begun) continue;
    if (direction === 'sent') sentAt ??= at;
    else if (sentAt !== null) {
      busy += at - sentAt + silenceMs;
      sentAt = null;
    }
  }
  return Math.min(1, busy / (now - begun));
}
