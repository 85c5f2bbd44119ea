/** A machine comes up by itself: which page it shows then is chosen by a person, and not left to what comes first. */
import type { Page, Panel } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';

/** @returns the id of the page that the panel begins with */
export function panelStart(panel: Panel | null, pages: readonly Page[]): Result<string> {
  const [only] = pages;
  if (!panel || !only) return fail('no-page', 'The panel has no page.', 'Make one in Panels, and send it again.');
  const start = pages.find(({ id }) => id === panel.startPageId) ?? (pages.length === 1 ? only : null);
  return start
    ? ok(start.id)
    : fail('no-start-page', 'Nobody has chosen which page the panel begins with.', 'Choose its start page in Panels, in the settings of the panel.');
}
