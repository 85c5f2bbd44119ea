import type { Change } from '@/core/project/command.ts';
import { ENTITY_SCHEMAS, KINDS, type AnyEntity } from '@/core/project/entities.ts';
import { ok, type Result } from '@/core/result.ts';
import { schemaProblem } from './fits.ts';
import { place } from './refused.ts';

/** The stored form of an entity: known fields only, settings kept as they came. */
export function validated(change: Change, merged: Record<string, unknown>): Result<AnyEntity> {
  const isPlain = KINDS[change.kind].isPlain as ((entity: unknown) => boolean) | undefined;
  if (isPlain?.(merged)) return ok(merged as unknown as AnyEntity);
  const problem = schemaProblem(() => ENTITY_SCHEMAS[change.kind].validateSync(merged, { strict: true }));
  return problem ? { ok: false, problem: { ...problem, place: place(change, problem.place ?? '') } } : ok(merged as unknown as AnyEntity);
}
