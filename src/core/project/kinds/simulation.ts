import { mixed } from 'yup';
import { checkBehaviour, type Behaviour } from '../../simulation/behaviour.ts';
import { idText } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';

/** What a tag does while it is simulated; its id is the tag's. */
export interface Simulation {
  readonly id: string;
  readonly behaviour: Behaviour;
  /** A bit: it runs while that is on, and pauses while it is off. Null for always. */
  readonly runTagId: string | null;
}

const behaviour = mixed<Behaviour>((value): value is Behaviour => typeof value === 'object' && value !== null && !Array.isArray(value))
  .defined()
  .test('behaviour', 'A behaviour is needed.', function (value) {
    const good = checkBehaviour(value);
    return good.ok || this.createError({ message: good.problem.message, path: `behaviour.${good.problem.place ?? ''}` });
  });

export const simulationKind = {
  plural: 'simulations',
  table: 'simulations',
  words: 'what simulated tags do',
  fields: {
    id: { label: 'Tag', schema: idText().defined(), column: 'id', stored: 'text', refers: belongsTo('tag') },
    behaviour: { label: 'Behaviour', schema: behaviour, column: 'behaviour', stored: 'plain' },
    runTagId: {
      label: 'Runs while',
      schema: idText().nullable().defined(),
      column: 'run_tag_id',
      stored: 'text',
      unsaid: null,
      refers: names('tag'),
    },
  },
} as const satisfies Kind<Simulation>;
