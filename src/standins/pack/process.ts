/** The simulated bagging cell of Quern Hollow, line 2: four baggers in a row, a belt and a palletiser. */
export const BAGGERS = 4;
export const STATES = ['Idle', 'Filling', 'Sealing', 'Waiting'] as const;

export interface BaggerState {
  isRunning: boolean;
  hasFault: boolean;
  /** Index of {@link STATES}. */
  state: number;
  /** Kilograms in the bag on the spout. */
  weight: number;
  /** Kilograms that a bag shall have. */
  target: number;
  bags: number;
  recipe: string;
  /** Of the three sealing jaws, in degrees Celsius. */
  jaws: number[];
  seconds: number;
}

export interface PackState {
  isRunning: boolean;
  /** Metres a minute. */
  beltSpeed: number;
  beltSetPoint: number;
  shift: string;
  readonly baggers: BaggerState[];
  /** Bags since the cell was built. */
  totalBags: bigint;
  layer: number;
  bagsOnPallet: number;
  filmLeft: number;
  /** Which of 64 faults are there. */
  readonly alarms: Set<number>;
}

const FILL_KG_PER_S = 4;
/** No two heaters are alike: by so many degrees the next one is warmer. */
const WARMER = 0.5;
const SEAL_S = 2;
const WAIT_S = 1;
const PER_LAYER = 6;
const LAYERS = 8;

export function newPack(): PackState {
  return {
    isRunning: true,
    beltSpeed: 12,
    beltSetPoint: 12.5,
    shift: 'Early',
    baggers: Array.from({ length: BAGGERS }, (_, i) => ({
      isRunning: true,
      hasFault: false,
      state: 1,
      weight: 3 * i,
      target: 25,
      bags: 4000 + 137 * i,
      recipe: i < 2 ? 'Rolled oats 25' : 'Jumbo oats 20',
      jaws: [148, 150.5, 149.25].map((jaw) => jaw + WARMER * i),
      seconds: 0,
    })),
    totalBags: 9_007_199_254_741_077n,
    layer: 3,
    bagsOnPallet: 20,
    filmLeft: 71,
    alarms: new Set([37]),
  };
}

export function stepPack(pack: PackState, seconds: number): void {
  pack.beltSpeed += ((pack.isRunning ? pack.beltSetPoint : 0) - pack.beltSpeed) * Math.min(1, seconds / 3);
  for (const [at, bagger] of pack.baggers.entries()) stepBagger(pack, bagger, at, seconds);
}

function stepBagger(pack: PackState, bagger: BaggerState, at: number, seconds: number): void {
  if (!pack.isRunning || !bagger.isRunning || bagger.hasFault) {
    bagger.state = 0;
    return;
  }
  bagger.seconds += seconds;
  bagger.jaws = bagger.jaws.map((jaw, i) => jaw + (150 + i + WARMER * at - jaw) * Math.min(1, seconds / 20));
  if (bagger.state === 0) enter(bagger, 1);
  else if (bagger.state === 1) {
    bagger.weight += FILL_KG_PER_S * seconds;
    if (bagger.weight >= bagger.target) enter(bagger, 2);
  } else if (bagger.state === 2 && bagger.seconds >= SEAL_S) {
    bagger.bags++;
    bagger.weight = 0;
    pack.totalBags++;
    pack.bagsOnPallet++;
    pack.layer = Math.floor(pack.bagsOnPallet / PER_LAYER);
    if (pack.layer >= LAYERS) [pack.layer, pack.bagsOnPallet] = [0, 0];
    pack.filmLeft = pack.filmLeft <= 0.1 ? 100 : pack.filmLeft - 0.02;
    enter(bagger, 3);
  } else if (bagger.state === 3 && bagger.seconds >= WAIT_S) enter(bagger, 1);
}

function enter(bagger: BaggerState, state: number): void {
  [bagger.state, bagger.seconds] = [state, 0];
}
