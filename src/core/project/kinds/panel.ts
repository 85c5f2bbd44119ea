import { array, object } from 'yup';
import { ID_FIELD, nameField, words } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';
import type { ShownUnit } from '../../panel/shownOn.ts';
import { unitLine } from '../../units/unitLine.ts';

export interface Panel {
  readonly id: string;
  readonly name: string;
  readonly units: readonly ShownUnit[];
}

const MOST_UNITS = 40;

const units = array()
  .of(
    object({ from: words('The unit', 20).min(1).defined(), to: words('The unit', 20).min(1).defined() })
      .noUnknown(true, 'A unit that is shown has from and to.')
      .test('converts', (value, context) => {
        const line = unitLine(value.from, value.to);
        return line.ok || context.createError({ message: line.problem.message });
      }),
  )
  .max(MOST_UNITS, `A panel shows at most ${MOST_UNITS} units in another one.`)
  .test('once', 'Each unit is shown in one other.', (value) => new Set(value?.map(({ from }) => from)).size === (value?.length ?? 0))
  .defined();

export const panelKind = {
  plural: 'panels',
  table: 'panels',
  fields: {
    id: ID_FIELD,
    name: nameField('The panel'),
    units: { label: 'Units shown', schema: units, column: 'units', stored: 'plain', unsaid: [] },
  },
} as const satisfies Kind<Panel>;
