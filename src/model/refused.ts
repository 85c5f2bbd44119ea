/** Changes that are refused for what is there by now, and where in a command they stand. */
import type { AnyEntity } from '@/core/project/entities.ts';
import type { Change } from '@/core/project/command.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fail, type Problem, type Result } from '@/core/result.ts';

/** The sender saw something else than what is there now: somebody changed it meanwhile. */
export function staleField(change: Change, current: AnyEntity | null): Problem | null {
  for (const [field, was] of Object.entries(change.was ?? {})) {
    const now = (current as Record<string, unknown> | null)?.[field];
    if (sameJson(now, was)) continue;
    return {
      code: 'changed-elsewhere',
      message:
        current === null
          ? `The ${change.kind} was removed elsewhere meanwhile.`
          : `The ${change.kind} was changed elsewhere meanwhile: ${field} is ${JSON.stringify(now)?.slice(0, 80) ?? 'empty'} now.`,
      remedy: 'Nothing was overwritten. Look at what is there now, and change it again if you still want to.',
      place: place(change, field),
    };
  }
  return null;
}

export function place(change: Change, field: string): string {
  return `${change.kind} ${change.id}${field ? ` ${field}` : ''}`;
}

export function gone(change: Change): Result<never> {
  return fail('gone', `The ${change.kind} is not there (any more).`, 'Reload, and try again.', place(change, ''));
}
