/** Pages of a panel and the ways between them: what buttons lead from where to where, and what nothing leads to. */
import type { Act } from './actions.ts';
import { actionsOf } from './kinds.ts';
import { startPage, type Scene } from './scene.ts';
import { pagesLedTo } from './uses.ts';

export interface Ways {
  /** Pages that buttons of it lead to, each once; also ones that are gone. */
  readonly to: readonly string[];
  /** It has a button to the page before or after it. */
  readonly isTurned: boolean;
  readonly goesBack: boolean;
}

const TURNS: readonly Act[] = ['next', 'previous'];

export function waysFrom(scene: Scene, pageId: string): Ways {
  const elements = scene.elementsOn(pageId);
  const acts = new Set(elements.flatMap((element) => actionsOf(element).map(({ act }) => act)));
  return { to: [...new Set(elements.flatMap(pagesLedTo))], isTurned: TURNS.some((act) => acts.has(act)), goesBack: acts.has('back') };
}

/** Pages that a person comes to from the start page by buttons alone. */
export function reachedPages(scene: Scene, waysOf: (pageId: string) => Ways): ReadonlySet<string> {
  const reached = new Set<string>();
  const walk = (id: string): void => {
    if (reached.has(id) || !scene.pages.some((page) => page.id === id)) return;
    reached.add(id);
    const { to, isTurned } = waysOf(id);
    for (const next of to) walk(next);
    if (isTurned) for (const page of scene.pages) walk(page.id);
  };
  const start = startPage(scene);
  if (start) walk(start.id);
  return reached;
}

/** It can be left: by a button of its own. */
export function isLeft({ to, isTurned, goesBack }: Ways): boolean {
  return to.length > 0 || isTurned || goesBack;
}
