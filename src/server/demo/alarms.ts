/** Alarms of the demo: what stops the line, what leaves its limits, who does not answer. */
import { v7 as uuid } from 'uuid';
import type { AlarmCondition } from '@/core/alarm/condition.ts';
import type { Change } from '@/core/project/command.ts';
import type { Priority } from '@/core/project/kinds/priorities.ts';

interface DemoAlarm {
  readonly tag: string;
  /** Tags by their names in `@`. */
  readonly text: string;
  readonly condition: AlarmCondition;
  readonly priority: Priority;
  readonly group: string;
  readonly advice: string;
  readonly onDelayMs?: number;
}

const above = (limit: number, hysteresis: number): AlarmCondition => ({ kind: 'limit', side: 'above', limit, hysteresis });
const below = (limit: number, hysteresis: number): AlarmCondition => ({ kind: 'limit', side: 'below', limit, hysteresis });

const ALARMS: readonly DemoAlarm[] = [
  {
    tag: 'stop_ok',
    text: 'Emergency stop',
    condition: { kind: 'bit', isOn: false },
    priority: 'critical',
    group: 'Kiln',
    advice: 'Find who pressed it, and why',
  },
  {
    tag: 'belt_jam',
    text: 'The belt is jammed',
    condition: { kind: 'bit', isOn: true },
    priority: 'critical',
    group: 'Kiln',
    advice: 'Stop the infeed, and clear the belt',
  },
  { tag: 'bed_temp', text: 'Bed too hot: @bed_temp', condition: above(115, 3), priority: 'high', group: 'Kiln', advice: 'Lower the set point, look at the exhaust fan', onDelayMs: 2000 }, // prettier-ignore
  { tag: 'bin_level', text: 'Bin nearly empty: @bin_level', condition: below(15, 5), priority: 'medium', group: 'Kiln', advice: 'Have oats brought', onDelayMs: 5000 }, // prettier-ignore
  { tag: 'filter_press', text: 'Dust filter clogs: @filter_press', condition: above(20, 2), priority: 'medium', group: 'Kiln', advice: 'Clean or change the filter', onDelayMs: 10_000 }, // prettier-ignore
  ...[1, 2, 3, 4, 5, 6, 7, 8].map((n): DemoAlarm => ({ tag: `s${n}_running`, text: `Stand ${n} does not answer`, condition: { kind: 'noValue' }, priority: 'high', group: 'Stands', advice: 'Look at its cable and its supply', onDelayMs: 3000 })), // prettier-ignore
  ...[1, 2, 3, 4, 5, 6, 7, 8].map((n): DemoAlarm => ({ tag: `s${n}_vibration`, text: `Stand ${n} shakes: @s${n}_vibration`, condition: above(9, 1), priority: 'low', group: 'Stands', advice: 'Have its bearings looked at', onDelayMs: 5000 })), // prettier-ignore
];

/** Those whose tags are there. */
export function alarmChanges(idOf: (tag: string) => string | null): readonly Change[] {
  return ALARMS.flatMap(({ tag, text, condition, ...more }): readonly Change[] => {
    const tagId = idOf(tag);
    const template = text.replace(/@(\w+)/g, (_, name: string) => `{@${idOf(name) ?? ''}}`);
    return tagId === null ? [] : [{ kind: 'alarm', id: uuid(), set: { tagId, settings: { template, condition, suppressed: null }, ...more } }];
  });
}
