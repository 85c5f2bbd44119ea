/**
 * What becomes of scan groups that share one line, by playing it through: each device asks for its groups in turn,
 * one request at a time, and the line serves the devices in the order in which they ask.
 */
export interface LoadGroup {
  readonly device: string;
  readonly periodMs: number;
  /** What each of its requests occupies the line for, in milliseconds, everything included. */
  readonly requestsMs: readonly number[];
}

export interface LineLoad {
  /** Part of the time that the groups ask for; more than 1 cannot be had. */
  readonly use: number;
  /** For each group, how long really passes between two readings, in milliseconds; null for one that asks nothing. */
  readonly periodsMs: readonly (number | null)[];
}

/** Playing through so many periods of the slowest group settles it. */
const PERIODS = 12;
const MOST_REQUESTS = 200_000;

export function foreseeLoad(groups: readonly LoadGroup[]): LineLoad {
  const playing = groups.map((g) => ({ ...g, due: 0, next: 0, begun: 0, readings: 0, first: 0, last: 0 }));
  const asking = playing.filter((g) => g.requestsMs.length > 0);
  const demand = asking.reduce((sum, g) => sum + total(g) / g.periodMs, 0);
  const end = PERIODS * Math.max(0, ...asking.map((g) => Math.max(g.periodMs, total(g) * asking.length)));
  const devices = [...new Set(asking.map((g) => g.device))].map((device) => {
    const own = asking.filter((g) => g.device === device);
    return { own, current: own[0], askedAt: 0 };
  });
  let now = 0;
  for (let n = 0; now < end && n < MOST_REQUESTS; n++) {
    const next = devices.reduce((a, b) => (b.askedAt < a.askedAt ? b : a));
    const group = next.current;
    if (!group) break;
    now = Math.max(now, next.askedAt);
    const ms = group.requestsMs[group.next] ?? 0;
    now += ms;
    group.next++;
    next.askedAt = now;
    if (group.next < group.requestsMs.length) continue;
    group.next = 0;
    if (group.readings++ === 0) group.first = now;
    group.last = now;
    // The beat is kept; what was missed is not made up for.
    group.due = Math.max(group.due + group.periodMs, now);
    next.current = next.own.reduce((a, b) => (b.due < a.due ? b : a));
    next.askedAt = Math.max(now, next.current.due);
  }
  return {
    use: demand,
    periodsMs: playing.map((g) =>
      g.readings > 1 ? (g.last - g.first) / (g.readings - 1) : g.requestsMs.length > 0 ? Math.max(g.periodMs, total(g)) : null,
    ),
  };
}

function total(group: LoadGroup): number {
  return group.requestsMs.reduce((sum, ms) => sum + ms, 0);
}
