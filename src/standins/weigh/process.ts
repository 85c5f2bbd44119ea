/** The simulated batch weigher of Quern Hollow, line 2: it fills a hopper to a set point, lets it settle, and lets it go. */
export const STATES = ['Idle', 'Filling', 'Settling', 'Discharging', 'Fault'] as const;

export interface WeigherState {
  weight: number;
  weightSp: number;
  state: number;
  batches: number;
  /** Kilograms since it was built. */
  total: number;
  /** Milligrams, exact. */
  totalMg: bigint;
  lastBatch: number;
  recipe: string;
  isRunning: boolean;
  /** How far each of the three gates is open, in percent. */
  gates: number[];
  seconds: number;
}

const FILL_KG_PER_S = 18;
const SETTLE_S = 2;
const EMPTY_KG_PER_S = 40;

export function newWeigher(): WeigherState {
  return {
    weight: 12.4,
    weightSp: 120,
    state: 1,
    batches: 8814,
    total: 1_057_680.5,
    totalMg: 1_057_680_500_000n,
    lastBatch: 119.8,
    recipe: 'Rolled oats 12',
    isRunning: true,
    gates: [100, 0, 0],
    seconds: 0,
  };
}

export function stepWeigher(w: WeigherState, seconds: number): void {
  if (!w.isRunning && w.state !== 0) enter(w, 0, [0, 0, 0]);
  if (w.isRunning && w.state === 0) enter(w, 1, [100, 0, 0]);
  w.seconds += seconds;
  if (w.state === 1) {
    const isNear = w.weight > w.weightSp * 0.9;
    w.gates = [isNear ? 20 : 100, 0, 0];
    w.weight += FILL_KG_PER_S * (isNear ? 0.2 : 1) * seconds;
    if (w.weight >= w.weightSp) enter(w, 2, [0, 0, 0]);
  } else if (w.state === 2 && w.seconds >= SETTLE_S) {
    w.lastBatch = w.weight;
    enter(w, 3, [0, 100, 100]);
  } else if (w.state === 3) {
    const gone = Math.min(w.weight, EMPTY_KG_PER_S * seconds);
    w.weight -= gone;
    w.total += gone;
    w.totalMg += BigInt(Math.round(gone * 1e6));
    if (w.weight <= 0.2) {
      w.batches++;
      enter(w, 1, [100, 0, 0]);
    }
  }
}

function enter(w: WeigherState, state: number, gates: number[]): void {
  [w.state, w.gates, w.seconds] = [state, gates, 0];
}
