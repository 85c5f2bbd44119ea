import { boolean, mixed, string } from 'yup';
import { checkCondition, type AlarmCondition } from '../../alarm/condition.ts';
import { isBound, LONGEST_EXPRESSION, type Bound } from '../../panel/bound.ts';
import { LONGEST_DELAY_MS } from '../../ranges/limits.ts';
import { ID_FIELD, idText, whole, words } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';
import { PRIORITIES, type Priority } from './priorities.ts';

export interface AlarmSettings {
  /** What it says, with values in braces. */
  readonly template: string;
  readonly condition: AlarmCondition;
  /** While this holds nobody is told of it: suppressed by design. Null for always told. */
  readonly suppressed: Bound | null;
}

export interface Alarm {
  readonly id: string;
  /** What it watches; null for an expression. */
  readonly tagId: string | null;
  readonly settings: AlarmSettings;
  readonly priority: Priority;
  /** What it belongs to, by which lists choose; empty for nothing. */
  readonly group: string;
  /** What to do when it comes. */
  readonly advice: string;
  readonly onDelayMs: number;
  readonly offDelayMs: number;
  readonly needsAck: boolean;
  /** It stays after it is gone until it is reset. */
  readonly isLatched: boolean;
  /** False takes it out of service. */
  readonly isOn: boolean;
  /** The controller's bit of its acknowledgement: it turns on when it is acknowledged here, and acknowledges it when it turns on there. */
  readonly ackTagId: string | null;
}

const LONGEST_TEXT = 400;

const settings = mixed<AlarmSettings>((value): value is AlarmSettings => typeof value === 'object' && value !== null && !Array.isArray(value))
  .defined()
  .test('settings', 'An alarm has a text and a condition.', function (value) {
    const { template, condition, suppressed, ...more } = value as Partial<AlarmSettings>;
    const wrong = (message: string, path: string) => this.createError({ message, path: `settings.${path}` });
    if (Object.keys(more).length > 0) return wrong('An alarm has a text, a condition, and what suppresses it.', Object.keys(more)[0] ?? '');
    if (typeof template !== 'string' || template.trim() === '') return wrong('An alarm needs a text.', 'template');
    if (template.length > LONGEST_TEXT) return wrong(`The text has at most ${LONGEST_TEXT} characters.`, 'template');
    if (suppressed !== null && !isBound(suppressed)) return wrong('What suppresses it is an expression.', 'suppressed');
    const good = checkCondition(condition);
    if (!good.ok) return wrong(good.problem.message, good.problem.place ?? 'condition');
    return JSON.stringify(value).length <= LONGEST_EXPRESSION * 4 || wrong('The condition is too long.', 'condition');
  });

const delay = (what: string) => whole(`The delay until it ${what}, in milliseconds,`, 0, LONGEST_DELAY_MS).defined();

export const alarmKind = {
  plural: 'alarms',
  table: 'alarms',
  title: ({ settings: { template } }) => template,
  fields: {
    id: ID_FIELD,
    tagId: { label: 'Tag', schema: idText().nullable().defined(), column: 'tag_id', stored: 'text', refers: belongsTo('tag') },
    settings: { label: 'Text and condition', schema: settings, column: 'settings', stored: 'plain' },
    priority: { label: 'Priority', schema: string<Priority>().oneOf(PRIORITIES).defined(), column: 'priority', stored: 'text', unsaid: 'medium' },
    group: { label: 'Group', schema: words('The group', 60).defined(), column: 'group_name', stored: 'text', unsaid: '' },
    advice: { label: 'What to do', schema: words('What to do', 400).defined(), column: 'advice', stored: 'text', unsaid: '' },
    onDelayMs: { label: 'Comes after', schema: delay('comes'), column: 'on_delay_ms', stored: 'number', unsaid: 0 },
    offDelayMs: { label: 'Goes after', schema: delay('goes'), column: 'off_delay_ms', stored: 'number', unsaid: 0 },
    needsAck: { label: 'Is acknowledged', schema: boolean().defined(), column: 'needs_ack', stored: 'plain', unsaid: true },
    isLatched: { label: 'Held until reset', schema: boolean().defined(), column: 'is_latched', stored: 'plain', unsaid: false },
    isOn: { label: 'In service', schema: boolean().defined(), column: 'is_on', stored: 'plain', unsaid: true },
    ackTagId: {
      label: "Controller's acknowledge bit",
      schema: idText().nullable().defined(),
      column: 'ack_tag_id',
      stored: 'text',
      unsaid: null,
      refers: names('tag'),
    },
  },
} as const satisfies Kind<Alarm>;
