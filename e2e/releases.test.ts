import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { RELEASE_BOUNDS_MS, RELEASE_FAULTS, ReleaseBench } from '../tests/support/releases.ts';
import { watchHolds, type Holds } from '../tests/support/holds.ts';

/** What is held on goes off, whatever breaks; `npm run bench -- hardening` does so many times. */
let bench: ReleaseBench;
let here: Holds;

beforeAll(async () => {
  bench = await ReleaseBench.open();
  here = watchHolds();
});
afterAll(async () => {
  here.stop();
  await bench.close();
});

test.each(RELEASE_FAULTS.map((fault) => [fault.name, fault] as const))(
  'a button is held, and %s: it goes off where it went on, and nowhere else',
  async (_name, fault) => {
    here.totalMs();
    const { ms, astray } = await bench.measure(fault);
    expect(astray).toEqual([]);
    expect(ms - here.totalMs()).toBeLessThan(RELEASE_BOUNDS_MS[fault.breaks]);
  },
);
