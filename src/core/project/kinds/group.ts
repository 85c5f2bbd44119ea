import { mixed, string } from 'yup';
import { READS, type Reads } from './device.ts';
import { isPeriod, periodRule } from '../tagSource.ts';
import { ID_FIELD, accessSchema, idText, nameField, nameText, words } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';
import { unavailableCodes } from './unavailableCodes.ts';
import { witnessUrlText } from './witnessUrl.ts';

/** A node of the tree that tags stand in. What it says holds for all below it that says nothing else. */
export interface Group {
  readonly id: string;
  readonly name: string;
  /** The group it stands in; null for one right under its device or the project. */
  readonly parentId: string | null;
  /** The device whose tags it holds; null for a group of the project, which may hold any. */
  readonly deviceId: string | null;
  readonly periodMs: number | null;
  readonly reads: Reads | null;
  readonly access: 'read' | 'readWrite' | null;
  /** Put before the addresses of the points below it, after the prefixes above it. */
  readonly prefix: string;
  /** Raw values by which sources below it say that they have none; null for what the group above says. */
  readonly unavailable: string | null;
  /** A control channel that tells the values below it without our mapping. */
  readonly witnessUrl: string | null;
}

const period = mixed<number>((value): value is number => typeof value === 'number')
  .test('period', periodRule('The period'), (value) => value === undefined || value === null || isPeriod(value))
  .nullable()
  .defined();

export const groupKind = {
  plural: 'groups',
  table: 'groups',
  siblings: {
    nameOf: ({ name }) => name,
    among: ({ parentId, deviceId }) => parentId ?? deviceId ?? '',
    taken: (name) => `A group named “${name}” is there already.`,
  },
  fields: {
    id: ID_FIELD,
    name: {
      ...nameField('The group'),
      schema: nameText('The group')
        .matches(/^[^/]*$/, 'The name of a group has no slash: make a group inside a group.')
        .defined(),
    },
    parentId: { label: 'In group', schema: idText().nullable().defined(), column: 'parent_id', stored: 'text', unsaid: null, refers: names('group') },
    deviceId: {
      label: 'Device',
      schema: idText().nullable().defined(),
      column: 'device_id',
      stored: 'text',
      unsaid: null,
      refers: belongsTo<string | null>('device'),
    },
    periodMs: { label: 'Period', schema: period, column: 'period_ms', stored: 'number', unsaid: null },
    reads: {
      label: 'Read',
      schema: string<Reads>()
        .nullable()
        .oneOf([...READS, null])
        .defined(),
      column: 'reads',
      stored: 'text',
      unsaid: null,
    },
    access: {
      label: 'Access',
      schema: accessSchema(),
      column: 'access',
      stored: 'plain',
      unsaid: null,
    },
    prefix: { label: 'Address prefix', schema: words('The prefix', 100).defined(), column: 'prefix', stored: 'text', unsaid: '' },
    unavailable: { label: 'Not available', schema: unavailableCodes(), column: 'unavailable', stored: 'text', unsaid: null },
    witnessUrl: {
      label: 'Control channel',
      schema: witnessUrlText().nullable().defined(),
      column: 'witness_url',
      stored: 'text',
      unsaid: null,
    },
  },
} as const satisfies Kind<Group>;
