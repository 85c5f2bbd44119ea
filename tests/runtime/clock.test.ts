import { describe, expect, test } from '@jest/globals';
import { laterClock } from '@/core/live/laterClock.ts';
import { WriteGuard } from '@/runtime/writeGuard.ts';

/** Two clocks in the test's hand: one that stands still in sleep, and the wall clock. */
function clocks() {
  const at = { steady: 5000, wall: 1_750_000_000_000 };
  const now = laterClock(
    () => at.steady,
    () => at.wall,
  );
  return {
    now,
    /** Both go on. */
    pass: (ms: number) => ((at.steady += ms), (at.wall += ms)),
    /** The computer sleeps, or the wall clock is set. */
    setWall: (ms: number) => (at.wall += ms),
  };
}

describe('the clock', () => {
  test('catches up with the wall clock after a sleep, so that times shown are those of the reader', () => {
    const { now, pass, setWall } = clocks();
    const begun = now();
    pass(1000);
    setWall(3_600_000);
    expect(now() - begun).toBe(3_601_000);
    expect(now()).toBe(1_750_000_000_000 + 3_601_000);
  });
  test('does not go back when the wall clock is set back, and still runs', () => {
    const { now, pass, setWall } = clocks();
    const before = now();
    setWall(-3_600_000);
    expect(now()).toBe(before);
    pass(250);
    expect(now()).toBe(before + 250);
  });
  test('an unlocked device is locked again by the time that is over, a sleep included', () => {
    const { now, setWall } = clocks();
    const guard = new WriteGuard({ now, after: () => () => undefined });
    guard.unlock('kiln', 'R. Vale', 5);
    expect(guard.permits('kiln', 'panel')).not.toBeNull();
    setWall(6 * 60_000);
    expect(guard.permits('kiln', 'panel')).toBeNull();
  });
});
