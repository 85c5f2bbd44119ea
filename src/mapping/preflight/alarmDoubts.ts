/** What is doubtful of alarms: one that can never be raised, one that nobody is shown. */
import { textParts } from '@/core/panel/bound.ts';
import { shownBy } from '@/core/panel/panelAlarms.ts';
import { alarmMade } from '../alarms/alarmMade.ts';
import { sceneTagOf } from '../panels/sceneOf.ts';
import type { Doubt, PreflightProject } from './doubt.ts';

export function alarmDoubts(project: PreflightProject): readonly Doubt[] {
  if (project.alarms.length === 0) return [];
  const elements = project.panels.flatMap(({ id }) => project.pagesOf(id).flatMap((page) => project.elementsOn(page.id)));
  const isShown = shownBy(elements);
  return project.alarms.flatMap((alarm): readonly Doubt[] => {
    const about = { kind: 'alarm', id: alarm.id } as const;
    const name = `The alarm “${textParts(alarm.settings.template)
      .map(({ text, by }) => (by === null ? text : '…'))
      .join('')}”`;
    const { problem } = alarmMade(alarm, (id) => sceneTagOf(project, id));
    if (problem !== '') return [{ code: 'alarm', severity: 'error', message: `${name} can never come: ${problem}`, about }];
    return isShown(alarm)
      ? []
      : [{ code: 'alarm-unseen', severity: 'warning', message: `${name} is on no list of a panel: nobody would see it.`, about }];
  });
}
