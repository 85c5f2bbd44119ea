/** Whether agreement at a value proves anything: what other points hold too tells nothing about which of them is read. */
import type { SignalDefinition } from '../signal.ts';
import { alikeNow } from './mistakes/otherPoints.ts';
import type { Sight } from './mistakes/way.ts';
import { saysTooLittle } from './verdict.ts';

const MOST_NAMED = 3;

/** Why what agrees proves too little; null where it is enough. */
export function proofProblem(def: SignalDefinition, sight: Sight): string | null {
  if (sight.wire === null) return 'There is no value on either side: this proves nothing.';
  const alike = alikeNow(def, sight);
  if (alike.length === 0) return saysTooLittle(def, sight.wire);
  const named = alike.slice(0, MOST_NAMED).join(', ');
  const hold = alike.length > MOST_NAMED ? `${named} and others hold` : `${named} ${alike.length > 1 ? 'hold' : 'holds'}`;
  return `${hold} the same: nothing tells which of them is read. Check again when they differ, or set it to another value.`;
}

/** Whether that may be so by chance only: what is measured moves, a set point stays. */
export function mayDiffer(access: 'read' | 'readWrite', def: SignalDefinition, sight: Sight): boolean {
  return access !== 'readWrite' && alikeNow(def, sight).length > 0;
}
