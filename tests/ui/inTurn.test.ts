/** Signals that are asked for one after the other are those that each tag has by itself, whatever was changed and removed before. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { uuidOf } from '../support/uuidOf.ts';
import { projectOf, tagOf } from './project.ts';

const COUNT = 30;

test('in any order, after any changes', () => {
  const step = fc.record({ n: fc.integer({ min: 1, max: COUNT }), what: fc.constantFrom('removed', 'moved', 'added') });
  fc.assert(
    fc.property(fc.array(step, { maxLength: 12 }), fc.boolean(), (steps, isAskedBetween) => {
      let project = projectOf(Array.from({ length: COUNT }, (_, i) => tagOf(i + 1)));
      const ask = project.effectiveInTurn();
      for (const tag of project.allTags()) ask(tag);
      for (const [at, { n, what }] of steps.entries()) {
        const id = what === 'added' ? 100 + at : n;
        const after = what === 'removed' ? null : tagOf(id, { address: `HR${500 + at}` });
        project = project.withChanges(at + 2, [{ kind: 'tag', id: uuidOf(id), after }]);
        if (isAskedBetween) for (const tag of project.allTags()) project.effectiveOf(tag);
      }
      const inTurn = project.effectiveInTurn();
      for (const tag of project.allTags()) {
        const signal = inTurn(tag);
        expect(signal.ok && signal.value.canonical).toBe(tag.source.kind === 'point' ? tag.source.address : '');
      }
    }),
    { numRuns: 60, seed: 7 },
  );
});
