/** What a simulated tag does, in one line. */
import { withPaths } from '@/core/expression/references.ts';
import { counted } from '@/core/counted.ts';
import type { Behaviour, End } from '@/core/simulation/behaviour.ts';
import { expressionPath } from '../../expression/reading.ts';
import type { ProjectView } from '../../live/project.ts';

export const END_WORDS: Readonly<Record<End, string>> = { again: 'again and again', back: 'and back', stay: 'and stays' };

export function behaviourInWords(project: ProjectView, behaviour: Behaviour): string {
  switch (behaviour.kind) {
    case 'hold':
      return `holds ${behaviour.value || 'what it began with'}`;
    case 'ramp':
      return `ramps from ${behaviour.from} to ${behaviour.to} in ${behaviour.seconds} s ${END_WORDS[behaviour.end]}`;
    case 'sine':
      return `swings between ${behaviour.low} and ${behaviour.high}, once in ${behaviour.seconds} s`;
    case 'random':
      return `random from ${behaviour.low} to ${behaviour.high}, another every ${behaviour.seconds} s${behaviour.isSmooth ? ', gliding' : ''}`;
    case 'follow': {
      const { factor, shift } = behaviour;
      const name = project.tag(behaviour.tagId)?.name ?? 'a tag that is gone';
      return `follows ${name}${factor === 1 ? '' : ` × ${factor}`}${shift === 0 ? '' : shift > 0 ? ` + ${shift}` : ` − ${-shift}`}`;
    }
    case 'sequence':
      return `${counted(behaviour.steps.length, 'step')} over ${behaviour.steps.at(-1)?.at ?? 0} s ${END_WORDS[behaviour.end]}`;
    case 'script':
      return withPaths(behaviour.gives.by, (id) => {
        const tag = project.tag(id);
        return tag && expressionPath(project, tag);
      });
  }
}
