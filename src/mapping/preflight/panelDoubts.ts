/** What is doubtful of pages and of the things on them. */
import { isWriting } from '@/core/panel/actions.ts';
import { actionsOf, ELEMENTS } from '@/core/panel/kinds.ts';
import { tagsListed, tagsWritten } from '@/core/panel/uses.ts';
import { unitOn } from '@/core/panel/shownOn.ts';
import type { Element, Page, Panel } from '@/core/project/entities.ts';
import { shownIn } from '@/core/units/shownIn.ts';
import type { Doubt, PreflightProject } from './doubt.ts';

export function panelDoubts(project: PreflightProject): readonly Doubt[] {
  return project.panels.flatMap((panel) => project.pagesOf(panel.id).flatMap((page) => pageDoubts(project, panel, page)));
}

function pageDoubts(project: PreflightProject, panel: Panel, page: Page): readonly Doubt[] {
  const elements = project.elementsOn(page.id);
  const about = { kind: 'page', id: page.id } as const;
  const where = `${panel.name}, ${page.name}`;
  if (elements.length === 0) return [{ code: 'empty-page', severity: 'note', message: `${where} is empty.`, about }];
  const lost = elements.filter((element) => element.tagId === null && needsTag(element));
  const doubts: Doubt[] = [];
  if (lost.length > 0)
    doubts.push({
      code: 'no-tag-shown',
      severity: 'warning',
      message: `${where}: ${lost.map(titleOf).slice(0, 5).join(', ')} ${lost.length === 1 ? 'shows' : 'show'} no tag.`,
      about,
    });
  for (const element of elements)
    for (const doubt of elementDoubts(project, panel, element)) doubts.push({ ...doubt, message: `${where}: ${doubt.message}`, about });
  return doubts;
}

function elementDoubts(project: PreflightProject, panel: Panel, element: Element): readonly Omit<Doubt, 'about'>[] {
  const tag = element.tagId === null ? null : project.tag(element.tagId);
  const signal = tag && project.effective(tag.id);
  if (!tag || !signal?.ok) return [];
  const { def, writable } = signal.value;
  const doubts: Omit<Doubt, 'about'>[] = [];
  if (tagsWritten(element).includes(tag.id) && !writable)
    doubts.push({
      code: 'element-read-only',
      severity: 'warning',
      message: `${titleOf(element)} writes to ${tag.name}, which is only read.`,
    });
  const unit = unitOn(def, panel.units, element.settings);
  const shown = shownIn(def, unit);
  if (!shown.ok)
    doubts.push({
      code: 'element-unit',
      severity: 'warning',
      message: `${titleOf(element)} would show ${tag.name} in ${unit}: ${shown.problem.message} It is shown in ${def.unit || 'no unit'}.`,
    });
  return doubts;
}

/** It shows or writes one value, and neither an expression nor tags of its own stand in the place of its tag. */
function needsTag(element: Element): boolean {
  const { kind, settings } = element;
  if (ELEMENTS[kind].takes === 'none' || settings.of !== undefined) return false;
  if (kind === 'button') return actionsOf(element).some((action) => isWriting(action) && action.tagId === null);
  return kind !== 'symbol' && kind !== 'trend' ? true : tagsListed(element).length === 0 && kind === 'trend';
}

function titleOf({ label, kind }: Element): string {
  return label === '' ? ELEMENTS[kind].name.toLowerCase() : `“${label}”`;
}
