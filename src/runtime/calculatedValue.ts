/** What an expression gave as the newest value of its tag. */
import type { Value } from '@/core/expression/tree.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { formatDataType, type DataType } from '@/core/value/dataType.ts';
import { qualityOf } from '@/core/value/quality.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { Followed, Told } from './calculations.ts';
import type { LiveTable } from './liveTable.ts';

const NO_NOTES = {};

/** A calculated tag as it is followed; null for one of another source. */
export function followedValue(live: LiveTable, tagId: string, signal: EffectiveSignal): Followed | null {
  const { calculation, periodMs } = signal;
  return calculation && { of: signal, program: calculation.program, periodMs, tell: (told, now) => put(live, tagId, signal, told, now) };
}

function put(live: LiveTable, tagId: string, signal: EffectiveSignal, told: Told, now: number): void {
  const raw = told.kind === 'value' ? rawOf(signal.def.type, told.value) : fail(told.reason, told.why);
  if (!raw.ok) live.lose(tagId, qualityOf(told.kind === 'value' ? 'no-result' : told.reason, raw.problem.message), raw.problem, now, signal);
  else {
    const doubted = told.kind === 'value' ? told.doubted : undefined;
    live.arrive(tagId, signal, { kind: 'typed', value: raw.value }, doubted === undefined ? NO_NOTES : { doubted }, now, 0);
  }
}

/** The value as the type of its tag holds it. Refuses what it cannot hold; never rounds or clips a whole number. */
function rawOf(type: DataType, value: Value): Result<RawValue> {
  switch (type.kind) {
    case 'boolean':
      return ok(value === true);
    case 'text':
      return ok(String(value).slice(0, type.room));
    case 'real': {
      const number = type.bytes === 4 ? Math.fround(Number(value)) : Number(value);
      return Number.isFinite(number)
        ? ok(number)
        : fail('out-of-type', `The expression gives ${String(value)}, which is beyond a ${type.name}.`, 'Choose LREAL.');
    }
    case 'integer': {
      if (typeof value === 'number' && !Number.isSafeInteger(value))
        return fail('fraction', `The expression gives ${value}, which is no whole number.`, 'Round it, or choose REAL for the tag.');
      const whole = BigInt(value);
      if (whole < type.min || whole > type.max)
        return fail(
          'out-of-type',
          `The expression gives ${whole}, and ${formatDataType(type)} holds ${type.min} to ${type.max}.`,
          'Choose a wider type.',
        );
      return ok(type.isWide ? whole : Number(whole));
    }
  }
}
