/** The alarms that a panel shows: those that its lists and lines choose. */
import { groupsIn, passes, type AlarmFilter } from '../alarm/alarmLine.ts';
import type { Alarm } from '../project/kinds/alarm.ts';
import type { Element } from '../project/kinds/element.ts';
import { settingsOf } from './kinds.ts';

/** Null for an element that shows none. */
export function alarmFilter(element: Element): AlarmFilter | null {
  if (element.kind !== 'alarms' && element.kind !== 'alarmBar') return null;
  const { groups, least } = settingsOf(element.kind, element);
  return { groups: groupsIn(groups), least };
}

/** Whether one of the elements shows it. */
export function shownBy(elements: Iterable<Element>): (alarm: Pick<Alarm, 'priority' | 'group'>) => boolean {
  const filters = [...elements].flatMap((element) => alarmFilter(element) ?? []);
  return (alarm) => filters.some((filter) => passes(alarm, filter));
}
