/** The signal of a tag whose address is moved by an index, at the place that is meant now. */
import type { Value } from '@/core/expression/tree.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Settings } from '@/drivers/contract.ts';
import type { EffectiveSignal } from './effective.ts';
import { tagSpan } from './tagSpan.ts';

/** @param by what the index gives; refused where it is no whole number, or leads to no place */
export function movedSignal(signal: EffectiveSignal, by: Value, dialect: Settings): Result<EffectiveSignal> {
  const { driver, canonical, def } = signal;
  const places = Number(by);
  if (typeof by === 'string' || typeof by === 'boolean' || !Number.isSafeInteger(places))
    return fail('index', `The index is ${String(by)}, and an address is moved by a whole number.`, 'Round it in its expression.', 'source.index');
  if (!driver?.indexed) return ok(signal);
  const moved = driver.indexed.moved(canonical, places, def.type, dialect);
  return moved.ok
    ? ok({ ...signal, canonical: moved.value, span: tagSpan(signal.span?.key ?? '', driver, moved.value, def.type, dialect) })
    : fail('index', `The index is ${places}: ${moved.problem.message}`, moved.problem.remedy, 'source.index');
}
