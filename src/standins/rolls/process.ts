/** One of the eight flaking stands of Quern Hollow, line 2: two rolls, a gap between them, oats that are pressed flat. */
export interface StandState {
  /** Millimetres. */
  gapSp: number;
  gap: number;
  /** Percent. */
  feedSp: number;
  feed: number;
  /** Revolutions per minute. */
  speed: number;
  /** Amperes of the main drive: more when the gap closes and when more is fed. */
  current: number;
  /** Degrees Celsius. */
  tempFront: number;
  tempRear: number;
  /** Bar, of the hydraulics that hold the rolls together. */
  pressure: number;
  /** Millimetres per second. */
  vibration: number;
  isRunning: boolean;
  isEngaged: boolean;
  runSeconds: number;
  /** Kilograms. */
  flakes: number;
}

export function newStand(n: number): StandState {
  return {
    gapSp: 0.4 + n * 0.02,
    gap: 0.42 + n * 0.02,
    feedSp: 55 + n * 3,
    feed: 50 + n * 3,
    speed: 480,
    current: 60,
    tempFront: 58 + n,
    tempRear: 57 + n,
    pressure: 62,
    vibration: 1.2 + n * 0.1,
    isRunning: n !== 6,
    isEngaged: n !== 6,
    runSeconds: 1_200_000 + n * 77_777,
    flakes: 8_400_000 + n * 123_456,
  };
}

/** @param seconds since the last step */
export function stepStand(s: StandState, seconds: number): void {
  const towards = (value: number, goal: number, halfLifeS: number): number => goal + (value - goal) * 0.5 ** (seconds / halfLifeS);
  const isWorking = s.isRunning && s.isEngaged;
  s.speed = towards(s.speed, s.isRunning ? 480 - (isWorking ? 6 : 0) : 0, 2);
  s.gap = towards(s.gap, s.isEngaged ? s.gapSp : 3, 1.5);
  s.feed = towards(s.feed, isWorking ? s.feedSp : 0, 3);
  s.current = towards(s.current, s.isRunning ? 28 + (isWorking ? (s.feed * 0.35) / Math.max(0.15, s.gap) : 0) : 0, 0.8);
  s.pressure = towards(s.pressure, s.isEngaged ? 60 + 8 / Math.max(0.2, s.gap) : 5, 1);
  s.tempFront = towards(s.tempFront, 30 + s.current * 0.28, 90);
  s.tempRear = towards(s.tempRear, 29 + s.current * 0.27, 100);
  s.vibration = towards(s.vibration, s.isRunning ? 0.8 + s.current / 90 + (Math.sin(s.runSeconds / 7) + 1) * 0.1 : 0, 2);
  if (s.isRunning) s.runSeconds += seconds;
  if (isWorking) s.flakes += (s.feed / 100) * 0.5 * seconds;
}
