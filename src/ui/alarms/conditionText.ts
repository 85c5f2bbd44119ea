/** The condition of an alarm in words. */
import type { AlarmCondition } from '@/core/alarm/condition.ts';
import { LIMIT_WORDS } from '@/core/ranges/limits.ts';
import type { Alarm } from '@/core/project/entities.ts';
import type { ProjectView } from '../live/project.ts';
import { boundText } from '../panels/editor/BoundField.tsx';

export function conditionText({ tagId, settings: { condition } }: Pick<Alarm, 'tagId' | 'settings'>, project: ProjectView): string {
  const tag = tagId === null ? null : project.tag(tagId);
  const name = tag ? project.pathOf(tag) : '–';
  return condition.kind === 'formula' ? boundText(project, condition.holds) : `${name} ${ofTag(condition, tag?.unit ?? '', project)}`;
}

function ofTag(condition: Exclude<AlarmCondition, { kind: 'formula' }>, unit: string, project: ProjectView): string {
  switch (condition.kind) {
    case 'bit':
      return `is ${condition.isOn ? 'on' : 'off'}`;
    case 'limit':
      return `${condition.side === 'above' ? '≥' : '≤'} ${boundText(project, condition.limit)}${typeof condition.limit === 'number' && unit !== '' ? ` ${unit}` : ''}`;
    case 'ofTag':
      return `beyond its limit ${LIMIT_WORDS[condition.key]}`;
    case 'noValue':
      return 'has no good value';
  }
}
