/** Levels of people at a panel: what a page or an element needs, and how one signs in. */
import { fail, ok, type Result } from '../result.ts';
import type { Element } from '../project/kinds/element.ts';
import type { Page } from '../project/kinds/page.ts';
import { startPage, type Scene } from './scene.ts';

/** 0 is everybody. */
export const MOST_LEVEL = 9;

/** The level that it needs to be operated. */
export function levelOf({ settings: { level } }: Pick<Element, 'settings'>): number {
  return typeof level === 'number' ? level : 0;
}

/** Below its level it is not shown at all. */
export const isHiddenBelow = ({ settings }: Pick<Element, 'settings'>): boolean => settings.hiddenBelow === true;

/** What an element needs with the page that it stands on. */
export const levelHere = (element: Pick<Element, 'settings'>, page: Pick<Page, 'level'> | null): number =>
  Math.max(levelOf(element), page?.level ?? 0);

/** Whether anything of it needs a level: then people can sign in. */
export function hasLevels({ pages, elementsOn }: Pick<Scene, 'pages' | 'elementsOn'>): boolean {
  return pages.some(({ id, level }) => level > 0 || elementsOn(id).some((element) => levelOf(element) > 0));
}

// OWASP ASVS 4.0.3, 2.1 speaks of passwords; a PIN on a glass is weaker, so what it lacks in length is made up by the limits of tries.
export const SHORTEST_PIN = 4;
export const LONGEST_PIN = 12;

/** Digits that nobody should have: all the same, or in a row. */
export function pinOf(text: string): Result<string> {
  if (!/^\d+$/.test(text) || text.length < SHORTEST_PIN || text.length > LONGEST_PIN)
    return fail('pin', `A PIN has ${SHORTEST_PIN} to ${LONGEST_PIN} digits.`, undefined, 'pin');
  const steps = new Set([...text].slice(1).map((digit, i) => (Number(digit) - Number(text[i]) + 10) % 10));
  const [step] = steps;
  if (steps.size === 1 && (step === 0 || step === 1 || step === 9))
    return fail('pin', 'A PIN whose digits are the same or in a row is the first that is tried.', 'Choose another one.', 'pin');
  return ok(text);
}

/** A page that may be opened with a level: that one, or else the start page, or the first of those that may; null for none. */
export function openPage(scene: Pick<Scene, 'panel' | 'pages'>, pageId: string | null, level: number): Page | null {
  const open = scene.pages.filter((page) => page.level <= level);
  return open.find(({ id }) => id === pageId) ?? open.find(({ id }) => id === startPage(scene)?.id) ?? open[0] ?? null;
}

/** Who is signed in at a glass. */
export interface SignedIn {
  readonly name: string;
  readonly level: number;
}
