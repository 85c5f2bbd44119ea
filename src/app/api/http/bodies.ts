/** Bodies of the API's requests. */
import { UUID } from '@/core/patterns.ts';
import { array, boolean, mixed, number, object, string } from 'yup';
import { draftChoicesSchema } from '@/core/taglist/choicesSchema.ts';
import { HOWS, WITNESS_KINDS, type How, type WitnessKind } from '@/core/check/proof.ts';
import { MOST_HOURS, MOST_MEGABYTES, MOST_PAST_TAGS } from '@/core/check/recording/settings.ts';
import { LONGEST_HOLD_MS, LONGEST_ISOLATION_MINUTES, SHORTEST_HOLD_MS } from '@/core/check/driving/drivenValue.ts';
import { LONGEST_NAME, LONGEST_NOTE, MOST_TAGS } from '@/core/check/run.ts';
import { SAID_STEPS } from '@/core/check/trailStep.ts';
import { ALARM_ACTS, type AlarmAct } from '@/core/alarm/alarmLine.ts';
import { LONGEST_SET_NAME, SET_ACTS, type SetAct } from '@/core/panel/storedSet.ts';
import { WRITERS, type Writer } from '@/core/live/status.ts';

export const id = (what: string) => string().matches(UUID, `${what} must be a UUID.`).required(`${what} is missing.`);
const who = () =>
  string()
    .trim('Your name: no spaces at the ends.')
    .min(1, 'Say who you are.')
    .max(60, 'Your name has at most 60 characters.')
    .required('Say who you are.');
const only = 'The request has a field that is not known.';

export const READ_DRAFT_BODY = object({ choices: draftChoicesSchema().required('Say how the list is to be read.') }).noUnknown(true, only);

const listNames = (what: string) =>
  array().of(string().max(400, 'A name in a list has at most 400 characters.').required()).max(100_000).required(`${what} are missing.`);
export const TAKE_DRAFT_BODY = object({
  commandId: id('The command'),
  renames: listNames('The accepted renames'),
  bytes: listNames('The accepted types'),
  leaveOutBad: boolean().required('Say whether rows that are not understood are excluded.'),
}).noUnknown(true, only);

export const COMPARE_BODY = object({ from: id('The earlier version'), to: id('The later version') }).noUnknown(true, only);

export const COMMIT_BODY = object({
  commandId: id('The command'),
  sourceId: id('The source'),
  deviceId: id('The device'),
  fileName: string().min(1).max(200).required('The file name is missing.'),
  text: string().defined('The text of the list is missing.'),
}).noUnknown(true, only);

export const SIGN_IN_BODY = object({
  operatorId: id('The person'),
  pin: string().max(40, 'The PIN is too long.').required('The PIN is missing.'),
}).noUnknown(true, only);

export const SIGN_OUT_BODY = object({ session: string().max(64, 'The session is too long.').required('The session is missing.') }).noUnknown(
  true,
  only,
);

export const PIN_BODY = object({ pin: string().max(40, 'The PIN is too long.').required('The PIN is missing.') }).noUnknown(true, only);

const alarmAct = {
  act: string<AlarmAct>()
    .oneOf(ALARM_ACTS, `What is done is one of ${ALARM_ACTS.join(', ')}.`)
    .required('What is done is missing.'),
  count: number().integer('The coming is a whole number.').min(0).required('The coming that was seen is missing.'),
  why: string().max(200, 'The reason is too long.'),
  minutes: number().integer('The minutes are a whole number.'),
};

export const SET_BODY = object({
  act: string<SetAct>()
    .oneOf(SET_ACTS, `What is done is one of ${SET_ACTS.join(', ')}.`)
    .required('What is done is missing.'),
  name: string().max(LONGEST_SET_NAME, 'The name is too long.'),
  setId: string().matches(UUID, 'The set must be a UUID.'),
  session: string().max(64, 'The session is too long.'),
  subject: number().integer('The subject is a whole number.'),
}).noUnknown(true, only);

export const ALARM_BODY = object({
  ...alarmAct,
  who: string().trim().max(60, 'The name is too long.').required('Who does it is missing.'),
}).noUnknown(true, only);

export const PANEL_ALARM_BODY = object({
  ...alarmAct,
  alarmId: id('The alarm'),
  session: string().max(64, 'The session is too long.'),
}).noUnknown(true, only);

export const WRITE_BODY = object({
  id: id('The write'),
  value: string().max(2000, 'The value is too long.').defined('The value is missing.'),
  unit: string().max(20, 'The unit is too long.'),
  origin: string().oneOf(['engineer'], 'A write beside the panels is an engineer’s.').required('Say where the write comes from.'),
  rounding: string<'refuse' | 'nearest'>().oneOf(['refuse', 'nearest'], 'A value that cannot be held is refused, or the nearest is taken.'),
}).noUnknown(true, only);

const MOST_SEEN = 20;
const isStates = (value: unknown): boolean =>
  typeof value === 'object' &&
  value !== null &&
  Object.keys(value).length <= MOST_SEEN &&
  Object.values(value).every((state: unknown) => typeof state === 'boolean');

export const PRESS_BODY = object({
  id: id('The press'),
  value: string().max(2000, 'The value is too long.'),
  unit: string().max(20, 'The unit is too long.'),
  item: string().max(2000, 'The item is too long.'),
  subject: number().integer('The subject is a whole number.'),
  session: string().max(64, 'The session is too long.'),
  seen: mixed<Readonly<Record<string, boolean>>>((value): value is Readonly<Record<string, boolean>> => isStates(value)),
}).noUnknown(true, only);

export const WRITES_BODY = object({
  writes: array()
    .of(
      object({
        id: id('The write'),
        tagId: id('The tag'),
        value: string().max(2000, 'The value is too long.').defined('The value is missing.'),
        unit: string().max(20, 'The unit is too long.'),
      }).noUnknown(true, only),
    )
    .min(1, 'Say what is written.')
    .max(200, 'At most 200 values at once.')
    .required('Say what is written.'),
  origin: string().oneOf(['engineer'], 'A write beside the panels is an engineer’s.').required('Say where the write comes from.'),
  rounding: string<'refuse' | 'nearest'>().oneOf(['refuse', 'nearest'], 'A value that cannot be held is refused, or the nearest is taken.'),
}).noUnknown(true, only);

export const WHO_BODY = object({ who: who() }).noUnknown(true, only);

const driving = {
  id: id('The value'),
  tagId: id('The tag'),
  value: string().max(200, 'The value is too long.').defined('The value is missing.'),
  who: who(),
};
export const DRIVE_BODY = object({ ...driving, runId: id('The run').optional() }).noUnknown(true, only);

export const HOLD_VALUE_BODY = object({
  ...driving,
  everyMs: number()
    .integer()
    .min(SHORTEST_HOLD_MS, 'At least 0.2 s.')
    .max(LONGEST_HOLD_MS, 'At most 60 s.')
    .required('Say how often it is written again.'),
}).noUnknown(true, only);

export const PERMISSION_BODY = object({
  tagId: id('The tag'),
  who: who(),
  low: string().max(60, 'The least is too long.'),
  high: string().max(60, 'The most is too long.'),
  moves: boolean().required('Say whether it may move something.'),
}).noUnknown(true, only);

export const ISOLATION_BODY = object({
  deviceId: id('The device'),
  who: who(),
  minutes: number()
    .integer()
    .min(0, 'At least one minute; 0 ends it.')
    .max(LONGEST_ISOLATION_MINUTES, `At most ${LONGEST_ISOLATION_MINUTES} minutes.`)
    .required('Say for how long.'),
}).noUnknown(true, only);

export const UNLOCK_BODY = object({
  deviceId: id('The device'),
  minutes: number().integer().min(1, 'At least one minute.').max(120, 'At most 120 minutes.').required('Say for how long.'),
  who: who(),
  writers: array().of(string<Writer>().oneOf(WRITERS, 'Writers are engineer, panel, rule and check.').required()).min(1, 'Say who may write.'),
}).noUnknown(true, only);

export const TRY_BODY = object({
  tagId: id('The tag'),
  dialect: mixed<Record<string, unknown>>(
    (value): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value),
  ).required('The protocol options are missing.'),
}).noUnknown(true, only);

const deviceNumber = (what: string) =>
  number().integer().min(1, `${what} is 1 to 255.`).max(255, `${what} is 1 to 255.`).required(`${what} is missing.`);

export const FIND_BODY = object({
  from: deviceNumber('The first number'),
  to: deviceNumber('The last number').when('from', ([from], schema) =>
    typeof from === 'number' ? schema.min(from, 'The last number is not before the first.') : schema,
  ),
  timeoutMs: number()
    .integer()
    .min(20, 'The time-out is 20 to 5000 ms.')
    .max(5000, 'The time-out is 20 to 5000 ms.')
    .required('The time-out is missing.'),
}).noUnknown(true, only);

export const DISCOVER_BODY = object({
  driver: string().max(60, 'There is no such protocol.').required('The protocol is missing.'),
  settings: mixed<Record<string, unknown>>(
    (value): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value),
  ).required('The settings of the link are missing.'),
}).noUnknown(true, only);

export const FIND_VALUE_BODY = object({
  reference: string().trim().max(20, 'A reference is shorter.').required('Which place? Write it as the manual does.'),
  value: string().trim().max(40, 'The value is too long.').required('Which value does it show?'),
}).noUnknown(true, only);

export const SIGNATURE_BODY = object({
  word: number().integer('A whole number.').min(0, 'Words count from 0.').max(65_535, 'The last is 65535.').required('Say where the block begins.'),
  reference: string().trim().max(12, 'At most 12 characters.').default(''),
}).noUnknown(true, only);

export const MEMORY_BODY = object({
  area: string().max(20).required('The area is missing.'),
  from: number().integer('A whole number.').min(0, 'Cells count from 0.').required('The first cell is missing.'),
  count: number().integer('A whole number.').min(1, 'At least one cell.').max(500, 'At most 500 cells at once.').required('Say how many cells.'),
}).noUnknown(true, only);

export const SECRET_BODY = object({
  value: string().min(1, 'The secret is empty.').max(20_000, 'A secret has at most 20000 characters.').required('The secret is missing.'),
}).noUnknown(true, only);

export const LOCK_BODY = object({ deviceId: string().matches(UUID, 'The device must be a UUID.') }).noUnknown(true, only);

export const RESTORE_BODY = object({ name: string().max(100).required('The backup is missing.') }).noUnknown(true, only);

export const PAIR_HOST_BODY = object({
  address: string().max(260, 'An address has at most 260 characters.').required('Say where the panel host is.'),
  code: string()
    .matches(/^[\d\s]{8,12}$/, 'The code has eight digits.')
    .required('Enter the code that the panel host shows.'),
}).noUnknown();
const hostedDigest = () => string().matches(/^[0-9a-f]{64}$/, 'A digest has 64 hexadecimal digits.');
export const SEND_BODY = object({
  panelId: string().matches(UUID, 'An id must be a UUID.').required(),
  replaces: hostedDigest().nullable().defined(),
}).noUnknown();
export const BACK_BODY = object({ replaces: hostedDigest().required() }).noUnknown();

export const NETWORK_BODY = object({
  open: boolean().required('Say whether the server is open.'),
  address: string()
    .matches(/^$|^((25[0-5]|2[0-4]\d|1?\d?\d)(\.|$)){4}$/, 'An address has four numbers from 0 to 255.')
    .defined('The address is missing.')
    .when('open', ([open], schema) => (open === true ? schema.min(7, 'Choose an address of this machine.') : schema)),
  names: array()
    .of(
      string()
        .matches(/^[a-z0-9]([a-z0-9.-]{0,61}[a-z0-9])?$/i, 'A name has letters, digits, dots and hyphens.')
        .required(),
    )
    .max(10, 'At most ten names.')
    .required('The names are missing.'),
}).noUnknown(true, only);

export const PEER_BODY = object({
  rights: string().oneOf(['read', 'check', 'write', 'none'], 'Rights are read, check, write or none.').required('The rights are missing.'),
}).noUnknown(true, only);

export const JOIN_BODY = object({
  code: string()
    .matches(/^\d{8}$/, 'The code has eight digits.')
    .required('The code is missing.'),
  name: string().trim('No spaces at the ends.').min(1, 'Say what joins.').max(40, 'At most 40 characters.').required('Say what joins.'),
}).noUnknown(true, only);

interface WitnessBody {
  readonly kind: 'none' | 'typed' | 'control' | 'pages';
  readonly text?: string;
  readonly who?: string;
  readonly where?: string;
  readonly how?: string;
  readonly tried?: string;
  readonly tolerance?: number;
}

/** More than any reading is off: JSON has no infinity, and none is meant. */
const MOST_TOLERANCE = 1e12;
const WITNESS_FIELDS = ['kind', 'text', 'who', 'where', 'how', 'tried', 'tolerance'];

export const CHECK_BODY = object({
  tagId: id('The tag'),
  witness: mixed<WitnessBody>((value): value is WitnessBody => typeof value === 'object' && value !== null && 'kind' in value)
    .test('witness', 'A witness is none, typed (with text and who), control or pages (with who).', (value) => {
      if (!value || !Object.keys(value).every((field) => WITNESS_FIELDS.includes(field))) return false;
      const hasWho = typeof value.who === 'string' && value.who.trim() !== '' && value.who.length <= 60;
      const isKnown =
        (value.where === undefined || (WITNESS_KINDS as readonly string[]).includes(value.where)) &&
        (value.how === undefined || Object.hasOwn(HOWS, value.how)) &&
        (value.tolerance === undefined ||
          (value.kind === 'typed' && typeof value.tolerance === 'number' && value.tolerance >= 0 && value.tolerance <= MOST_TOLERANCE)) &&
        (value.tried === undefined || (typeof value.tried === 'string' && value.tried.length <= 200));
      return (
        isKnown &&
        (value.kind === 'none' ||
          ((value.kind === 'control' || value.kind === 'pages') && hasWho) ||
          (value.kind === 'typed' && hasWho && typeof value.text === 'string' && value.text.length <= 2000))
      );
    })
    .required('Say who or what is the witness.'),
}).noUnknown(true, only);

export const RUN_BODY = object({
  id: id('The run'),
  name: string().trim().min(1, 'Say what is checked.').max(LONGEST_NAME, `At most ${LONGEST_NAME} characters.`).required('Say what is checked.'),
  who: who(),
  witness: string<WitnessKind>()
    .oneOf(WITNESS_KINDS, `The witness is one of ${WITNESS_KINDS.join(', ')}.`)
    .required('Say who or what is the witness.'),
  how: string<How>()
    .oneOf(Object.keys(HOWS) as How[], 'The value is observed, driven or injected.')
    .required('Say how the values come to be.'),
  tagIds: array()
    .of(id('A tag'))
    .min(1, 'Choose at least one tag.')
    .max(MOST_TAGS, `A run has at most ${MOST_TAGS} tags.`)
    .required('Say what is checked.'),
}).noUnknown(true, only);

type SaidStepName = (typeof SAID_STEPS)[number];
export const RUN_STEP_BODY = object({
  tagId: id('The tag'),
  who: who(),
  step: string<SaidStepName>()
    .oneOf(SAID_STEPS, `A step is one of ${SAID_STEPS.join(', ')}.`)
    .required('Say what is to be noted.'),
  words: string().max(LONGEST_NOTE, `At most ${LONGEST_NOTE} characters.`).defined('The words are missing.'),
  side: string<'mapping' | 'panel' | 'unknown'>().oneOf(
    ['mapping', 'panel', 'unknown'],
    'The fault lies in the mapping, the panel, or it is unknown.',
  ),
})
  .test('reason', 'Say why it is waived.', (value) => value.step !== 'waived' || value.words.trim() !== '')
  .noUnknown(true, only);

export const END_RUN_BODY = object({ who: who(), ended: boolean().required('Say whether it is ended.') }).noUnknown(true, only);

const moment = (what: string) => number().integer(`${what} is in whole milliseconds since 1970.`).min(0).max(8.64e15).required(`${what} is missing.`);

export const RECORDER_BODY = object({
  deviceIds: array().of(id('A device')).max(1000, 'At most 1000 devices.').required('Say which devices are recorded.'),
  hours: number()
    .integer('Whole hours.')
    .min(1, 'An hour at least.')
    .max(MOST_HOURS, `At most ${MOST_HOURS} hours.`)
    .required('Say for how many hours.'),
  megabytes: number()
    .integer('Whole megabytes.')
    .min(10, '10 MB at least.')
    .max(MOST_MEGABYTES, `At most ${MOST_MEGABYTES} MB.`)
    .required('Say how much room it may take.'),
}).noUnknown(true, only);

export const PAST_LOOK_BODY = object({
  moment: moment('The moment'),
  tagIds: array().of(id('A tag')).min(1, 'Say which tags.').max(MOST_PAST_TAGS, `At most ${MOST_PAST_TAGS} tags.`).required('Say which tags.'),
}).noUnknown(true, only);

export const PAST_HISTORY_BODY = object({ tagId: id('The tag'), from: moment('The beginning'), to: moment('The end') })
  .test('span', 'The end comes before the beginning.', ({ from, to }) => to >= from)
  .noUnknown(true, only);
