/** Units of time as people write them, in nanoseconds. */
import { DAY_NS, MS_NS, SECOND_NS } from '../value/timeText.ts';

export const UNITS_OF_TIME: ReadonlyMap<string, bigint> = new Map(
  Object.entries({
    ns: 1n,
    us: 1000n,
    µs: 1000n,
    μs: 1000n,
    ms: MS_NS,
    s: SECOND_NS,
    sec: SECOND_NS,
    min: 60n * SECOND_NS,
    h: 3600n * SECOND_NS,
    d: DAY_NS,
  }),
);
