/**
 * What other guests of a host take of this machine's processors. Where it is shared they take a half of it for minutes, and then
 * nothing: a time is taken several times, and those count during which least was taken away.
 */
import { readFileSync } from 'node:fs';

interface Processors {
  readonly stolen: number;
  readonly all: number;
}

/** In ticks since the machine was started; nothing is known of it elsewhere than on Linux. */
function processors(): Processors {
  try {
    const [line = ''] = readFileSync('/proc/stat', 'utf8').split('\n', 1);
    const ticks = line.trim().split(/\s+/).slice(1, 9).map(Number);
    return { stolen: ticks[7] ?? 0, all: ticks.reduce((sum, each) => sum + each, 0) };
  } catch {
    return { stolen: 0, all: 1 };
  }
}

export interface Timed<T> {
  readonly value: T;
  /** The part of the processors' time that was taken away meanwhile, 0…1. */
  readonly stolen: number;
}

export async function timed<T>(measure: () => Promise<T>): Promise<Timed<T>> {
  const before = processors();
  const value = await measure();
  const after = processors();
  return { value, stolen: (after.stolen - before.stolen) / Math.max(1, after.all - before.all) };
}

/** Of the half of the tries that least was taken away from, the one in the middle. */
export function quietMedian<T>(tries: readonly Timed<T>[], ms: (value: T) => number): { readonly value: T; readonly words: string } {
  const quiet = [...tries].sort((a, b) => a.stolen - b.stolen).slice(0, Math.ceil(tries.length / 2));
  const [middle, all] = [median(quiet, ms), median(tries, ms)];
  if (!middle || !all) throw new Error('Nothing was measured.');
  const most = Math.max(...quiet.map(({ stolen }) => stolen));
  return {
    value: middle.value,
    words: `the quieter half of ${tries.length}, of which at most ${Math.round(most * 100)} % of the machine was taken away; of all ${Math.round(ms(all.value))} ms`,
  };
}

function median<T>(tries: readonly Timed<T>[], ms: (value: T) => number): Timed<T> | undefined {
  return [...tries].sort((a, b) => ms(a.value) - ms(b.value))[(tries.length - 1) >> 1];
}
