/** What is doubtful of panels, their pages, and of the things on them. */
import { counted } from '@/core/counted.ts';
import { isWriting } from '@/core/panel/actions.ts';
import { pageNumbers, wordTag } from '@/core/panel/exchange.ts';
import { expressionsIn } from '@/core/panel/bound.ts';
import { worstContrast } from '@/core/panel/contrast.ts';
import { ELEMENTS, actionsOf, settingsOf } from '@/core/panel/kinds.ts';
import { formulaOf } from '@/core/panel/formula.ts';
import { levelOf } from '@/core/panel/levels.ts';
import { longestText } from '@/core/panel/longest.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { shownOn, unitOn } from '@/core/panel/shownOn.ts';
import { FINGER_MM, pageHeight, pixelsPerMm } from '@/core/panel/sizes.ts';
import { statesOf } from '@/core/panel/elementText.ts';
import { gapsIn, type State } from '@/core/panel/states.ts';
import { fitted, roomOf } from '@/core/panel/textRoom.ts';
import { textEms } from '@/core/panel/textWidth.ts';
import { picturesUsedBy, tagsListed, tagsUsedBy, tagsWritten } from '@/core/panel/uses.ts';
import { forSubject } from '@/core/panel/subjects.ts';
import { isLeft, reachedPages, waysFrom, type Ways } from '@/core/panel/ways.ts';
import type { Element, Page, Panel, PanelWord } from '@/core/project/entities.ts';
import { parseFor } from '@/core/signal.ts';
import { shownIn } from '@/core/units/shownIn.ts';
import { sceneOf } from '../panels/sceneOf.ts';
import type { Doubt, PreflightProject } from './doubt.ts';

type Said = Omit<Doubt, 'about'>;

/** Names in a sentence; more of them are counted. */
const NAMED = 4;

export function panelDoubts(project: PreflightProject): readonly Doubt[] {
  return project.panels.flatMap((panel) => {
    const drawn = sceneOf(project, panel.id);
    if (!drawn) return [];
    const scene = ofPattern(drawn);
    const words = project.wordsOf(panel.id);
    return [
      ...scene.pages.flatMap((page) => pageDoubts(scene, page)),
      ...wayDoubts(
        scene,
        words.some(({ role }) => role === 'wanted'),
      ),
      ...writerDoubts(scene),
      ...levelDoubts(scene, Math.max(0, ...project.operators.map(({ level }) => level))),
      ...exchangeDoubts(scene, words),
      ...drawn.pages.flatMap((page) => subjectDoubts(drawn, page)),
    ];
  });
}

function pageDoubts(scene: Scene, page: Page): readonly Doubt[] {
  const elements = scene.elementsOn(page.id);
  const about = { kind: 'page', id: page.id } as const;
  const where = `${scene.panel.name}, ${page.name}`;
  if (elements.length === 0) return [{ code: 'empty-page', severity: 'note', message: `${where} is empty.`, about }];
  const lost = elements.filter((element) => element.tagId === null && needsTag(element));
  const said: Said[] = [];
  if (lost.length > 0)
    said.push({ code: 'no-tag-shown', severity: 'warning', message: `${namesOf(lost)} ${lost.length === 1 ? 'shows' : 'show'} no tag.` });
  const outside = elements.filter((element) => isOutside(element, scene.panel));
  if (outside.length > 0)
    said.push({
      code: 'element-outside',
      severity: 'warning',
      message: `${namesOf(outside)} ${outside.length === 1 ? 'lies' : 'lie'} outside the page, which is ${scene.panel.width} × ${pageHeight(scene.panel)}.`,
    });
  for (const element of elements) said.push(...elementDoubts(scene, element));
  said.push(...touchDoubts(scene.panel, elements));
  return said.map((doubt) => ({ ...doubt, message: `${where}: ${doubt.message}`, about }));
}

/** It shows or writes one value, and neither an expression nor tags of its own stand in the place of its tag. */
function needsTag(element: Element): boolean {
  const { kind, settings } = element;
  if (ELEMENTS[kind].takes === 'none' || settings.of !== undefined) return false;
  if (kind === 'button') return actionsOf(element).some((action) => isWriting(action) && action.tagId === null);
  if (kind === 'trend') return tagsListed(element).length === 0;
  return !ELEMENTS[kind].standsAlone;
}

function isOutside({ x, y, w, h }: Element, panel: Panel): boolean {
  return x < 0 || y < 0 || x + w > panel.width || y + h > pageHeight(panel);
}

function elementDoubts(scene: Scene, element: Element): readonly Said[] {
  const said: Said[] = [];
  const title = titleOf(element);
  const gone = tagsUsedBy(element).filter((id) => scene.tag(id) === null);
  if (gone.length > 0)
    said.push({
      code: 'element-tag-gone',
      severity: 'error',
      message: `${title} uses ${counted(gone.length, 'tag')} that ${gone.length === 1 ? 'is' : 'are'} gone.`,
    });
  for (const expression of gone.length > 0 ? [] : expressionsIn(element.settings)) {
    const formula = formulaOf(expression, null, scene.tag);
    if (!formula.ok)
      said.push({
        code: 'element-expression',
        severity: 'error',
        message: `${title} has an expression that says nothing: ${formula.problem.message}`,
      });
  }
  for (const id of tagsWritten(element)) {
    const tag = scene.tag(id);
    if (tag?.def && !tag.canWrite)
      said.push({ code: 'element-read-only', severity: 'warning', message: `${title} writes to ${tag.name}, which is only read.` });
  }
  for (const { act, tagId, value } of actionsOf(element)) {
    const tag = scene.tag(tagId ?? element.tagId ?? '');
    const read = act === 'write' && tag?.def ? parseFor(tag.def, value) : null;
    if (tag && read && !read.ok)
      said.push({ code: 'element-writes', severity: 'error', message: `${title} cannot write what it says to ${tag.name}: ${read.problem.message}` });
  }
  const states = statesOf(element, scene);
  const gaps = gapsIn(states, 3);
  if (gaps.length > 0)
    said.push({ code: 'state-gaps', severity: 'note', message: `${title} has no state for ${gaps.join(', ')}: the value itself is shown then.` });
  if (element.kind === 'picture') said.push(...pictureDoubts(scene, element, states));
  if (element.kind === 'text' || element.kind === 'shape') said.push(...contrastDoubts(element));
  const tag = element.tagId === null || ELEMENTS[element.kind].takes === 'none' ? null : scene.tag(element.tagId);
  if (!tag?.def) return said;
  const unit = unitOn(tag.def, scene.panel.units, element.settings);
  const inUnit = shownIn(tag.def, unit);
  if (!inUnit.ok)
    said.push({
      code: 'element-unit',
      severity: 'warning',
      message: `${title} would show ${tag.name} in ${unit}: ${inUnit.problem.message} It is shown in ${tag.def.unit || 'no unit'}.`,
    });
  const shown = shownOn(tag.def, scene.panel.units, element.settings);
  const length = element.settings.length;
  const longest = longestText(shown, states, typeof length === 'number' ? length : 0);
  const room = roomOf(element, { unit: shown.type.kind === 'boolean' ? '' : shown.unit, hasLabel: true });
  const cut = room && fitted(room, longest);
  if (room && cut && !cut.isWhole) {
    const word = longest.length > 24 ? `${longest.slice(0, 24)}…` : longest;
    const more = Math.ceil(textEms(longest, room.face) * cut.px - room.has);
    said.push({
      code: 'element-cut',
      severity: 'warning',
      message: `${title} may have to show “${word}”, which does not fit even in small digits: it needs ${counted(more, 'pixel')} more. ${cut.text === longest ? 'It would lose its end.' : `It would say “${cut.text}”.`}`,
    });
  }
  return said;
}

function pictureDoubts(scene: Scene, element: Element, states: readonly State[]): readonly Said[] {
  const shown = picturesUsedBy(element, states);
  const title = titleOf(element);
  if (shown.length === 0) return [{ code: 'no-picture', severity: 'warning', message: `${title} has no picture chosen.` }];
  const gone = shown.filter((id) => scene.picture(id) === null).length;
  return gone === 0
    ? []
    : [{ code: 'picture-gone', severity: 'error', message: `${title} shows ${counted(gone, 'picture')} that ${gone === 1 ? 'is' : 'are'} gone.` }];
}

function contrastDoubts(element: Element): readonly Said[] {
  if (element.kind !== 'text') return [];
  const { tone, size } = settingsOf('text', element);
  const wanted = size === 'large' || size === 'huge' ? 3 : 4.5;
  const is = worstContrast(tone, 'page');
  return is >= wanted
    ? []
    : [
        {
          code: 'element-contrast',
          severity: 'note',
          message: `${titleOf(element)} is hard to read: ${is.toFixed(1)} to 1, and ${wanted} to 1 is wanted.`,
        },
      ];
}

/** A finger needs its room, and meets one thing at a time. */
function touchDoubts(panel: Panel, elements: readonly Element[]): readonly Said[] {
  const touched = elements.filter(({ kind }) => ELEMENTS[kind].isTouched);
  const least = FINGER_MM * pixelsPerMm(panel);
  const small = touched.filter(({ w, h }) => Math.min(w, h) < least - 0.5);
  const said: Said[] = [];
  if (small.length > 0)
    said.push({
      code: 'element-small',
      severity: 'note',
      message: `${namesOf(small)} ${small.length === 1 ? 'is' : 'are'} smaller than a finger: ${FINGER_MM} mm are ${Math.ceil(least)} pixels on this glass.`,
    });
  const sorted = [...touched].sort((a, b) => a.x - b.x);
  for (const [i, a] of sorted.entries())
    for (let j = i + 1; j < sorted.length; j++) {
      const b = sorted[j];
      if (!b || b.x >= a.x + a.w) break;
      // What is never seen together may lie in one place.
      if (b.y < a.y + a.h && a.y < b.y + b.h && a.settings.visible === undefined && b.settings.visible === undefined)
        said.push({
          code: 'element-overlap',
          severity: 'warning',
          message: `${titleOf(a)} and ${titleOf(b)} lie over each other: a finger may meet the wrong one.`,
        });
    }
  return said;
}

/** Pages that serve like things as they are drawn for the first of them. */
function ofPattern(scene: Scene): Scene {
  return {
    ...scene,
    elementsOn: (pageId) => {
      const pattern = scene.subjectsOn(pageId)?.choices[0];
      const elements = scene.elementsOn(pageId);
      return pattern ? elements.map((element) => forSubject(element, pattern).element) : elements;
    },
  };
}

/** Subjects that are gone, and what is not shown of those that have not all of it. */
function subjectDoubts(scene: Scene, page: Page): readonly Doubt[] {
  const subjects = scene.subjectsOn(page.id);
  if (!subjects) return [];
  const elements = scene.elementsOn(page.id);
  const about = { kind: 'page', id: page.id } as const;
  const where = `${scene.panel.name}, ${page.name}`;
  if (subjects.choices.length === 0)
    return [{ code: 'no-subject', severity: 'warning', message: `${where}: ${subjects.name} has no subject, so the page shows nothing.`, about }];
  return subjects.choices.flatMap((choice): readonly Doubt[] => {
    if (!choice.isThere)
      return [{ code: 'subject-gone', severity: 'error', message: `${where}: the subject ${choice.number} of ${subjects.name} is gone.`, about }];
    const missing = elements.filter((element) => forSubject(element, choice).isMissing);
    if (missing.length === 0) return [];
    const message = `${where}: of ${choice.text} ${namesOf(missing)} ${missing.length === 1 ? 'is' : 'are'} not shown, it has no such tag.`;
    return [{ code: 'subject-missing', severity: 'note', message, about }];
  });
}

/** Words that their tags cannot be, numbers that two pages have, commands that nobody answers. */
function exchangeDoubts({ panel, pages, tag }: Scene, words: readonly PanelWord[]): readonly Doubt[] {
  const doubts: Doubt[] = [];
  for (const { role, tagId } of words) {
    const of = tag(tagId);
    const said = of && wordTag(role, of.def, of.canWrite);
    if (said && !said.ok)
      doubts.push({ code: 'panel-word', severity: 'error', message: `${panel.name}: ${said.problem.message}`, about: { kind: 'tag', id: tagId } });
  }
  const seen = new Map<number, Page>();
  for (const page of pages) {
    const number = pageNumbers(pages).get(page.id) ?? 0;
    const first = seen.get(number);
    if (first && words.length > 0)
      doubts.push({
        code: 'page-number',
        severity: 'warning',
        message: `${panel.name}: ${first.name} and ${page.name} both have the number ${number}; the controller reaches the first.`,
        about: { kind: 'page', id: page.id },
      });
    else seen.set(number, page);
  }
  const wanted = words.find(({ role }) => role === 'wanted');
  if (wanted && !words.some(({ role }) => role === 'result'))
    doubts.push({
      code: 'panel-unanswered',
      severity: 'note',
      message: `${panel.name}: the controller commands pages and hears no result.`,
      about: { kind: 'tag', id: wanted.tagId },
    });
  return doubts;
}

/**
 * Pages and the ways between them: one that no button reaches, one that no button leaves, a button that leads nowhere.
 * @param isCommanded the controller leads to any page
 */
function wayDoubts(scene: Scene, isCommanded: boolean): readonly Doubt[] {
  const { panel, pages } = scene;
  const doubts: Doubt[] = [];
  const about = (page: Page): Doubt['about'] => ({ kind: 'page', id: page.id });
  const ways = new Map(pages.map(({ id }) => [id, waysFrom(scene, id)]));
  const waysOf = (id: string): Ways => ways.get(id) ?? waysFrom(scene, id);
  for (const page of pages)
    for (const to of waysOf(page.id).to)
      if (!pages.some(({ id }) => id === to))
        doubts.push({
          code: 'page-gone',
          severity: 'error',
          message: `${panel.name}, ${page.name}: a button leads to a page that is gone.`,
          about: about(page),
        });
  // The bar leads everywhere, and so does a controller.
  if (panel.hasBar || isCommanded || pages.length < 2) return doubts;
  const reached = reachedPages(scene, waysOf);
  for (const page of pages) {
    if (!reached.has(page.id))
      doubts.push({
        code: 'page-unreached',
        severity: 'warning',
        message: `${panel.name}: no button leads to ${page.name}, and the panel has no bar.`,
        about: about(page),
      });
    if (!isLeft(waysOf(page.id)))
      doubts.push({
        code: 'page-no-way',
        severity: 'warning',
        message: `${panel.name}: no button leads away from ${page.name}, and the panel has no bar.`,
        about: about(page),
      });
  }
  return doubts;
}

/** What nobody has the level for. */
function levelDoubts(scene: Scene, highest: number): readonly Doubt[] {
  return scene.pages.flatMap((page): readonly Doubt[] => {
    const barred = scene.elementsOn(page.id).filter((element) => levelOf(element) > highest);
    const said = [
      ...(page.level > highest ? [`It is opened from level ${page.level}`] : []),
      ...(barred.length > 0 ? [`${namesOf(barred)} ${barred.length === 1 ? 'needs' : 'need'} level ${Math.max(...barred.map(levelOf))}`] : []),
    ];
    return said.map((what) => ({
      code: 'nobody-may',
      severity: 'warning',
      message: `${scene.panel.name}, ${page.name}: ${what}, which ${highest === 0 ? 'nobody has: there are no people yet' : 'nobody has'}.`,
      about: { kind: 'page', id: page.id },
    }));
  });
}

/** Two kinds of things that write one tag get into each other's way; buttons that set and reset it are one. */
function writerDoubts(scene: Scene): readonly Doubt[] {
  const writers = new Map<string, Element[]>();
  for (const page of scene.pages)
    for (const element of scene.elementsOn(page.id)) {
      // A set is written now and then, beside what enters its values.
      const isFree = element.kind !== 'button' && !ELEMENTS[element.kind].writesListed;
      if (isFree) for (const id of tagsWritten(element)) writers.set(id, [...(writers.get(id) ?? []), element]);
    }
  return [...writers].flatMap(([id, elements]): readonly Doubt[] => {
    const [first, second] = elements;
    if (!first || !second) return [];
    const tag = scene.tag(id);
    return [
      {
        code: 'two-writers',
        severity: 'note',
        message: `${scene.panel.name}: ${tag?.name ?? 'a tag'} is written by ${namesOf(elements)}.`,
        about: { kind: 'page', id: second.pageId },
      },
    ];
  });
}

function namesOf(elements: readonly Element[]): string {
  const named = elements.slice(0, NAMED).map(titleOf).join(', ');
  return elements.length > NAMED ? `${named} and ${elements.length - NAMED} more` : named;
}

function titleOf({ label, kind }: Element): string {
  return label === '' ? ELEMENTS[kind].name.toLowerCase() : `“${label}”`;
}
