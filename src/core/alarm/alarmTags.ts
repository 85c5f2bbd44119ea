import { idsIn } from '../expression/references.ts';
import { expressionsIn } from '../panel/bound.ts';
import type { Alarm } from '../project/kinds/alarm.ts';

/** All tags that an alarm goes by, says in its text, or writes; one may be there twice. */
export function tagsOfAlarm({ tagId, ackTagId, settings }: Pick<Alarm, 'tagId' | 'ackTagId' | 'settings'>): readonly string[] {
  return [tagId, ackTagId, ...expressionsIn({ ...settings }).flatMap((by) => [...idsIn(by)])].flatMap((id) => id ?? []);
}
