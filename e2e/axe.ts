/** What axe finds on a page: WCAG 2.2, levels A and AA, its contrast (1.4.3) and target size (2.5.8) among them. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from 'puppeteer-core';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** Serious and critical, each with where it is. */
export async function axeFinds(page: Page): Promise<readonly string[]> {
  await page.evaluate(axe);
  return page.evaluate(async (tags) => {
    const { axe: run } = window as unknown as {
      axe: {
        run(
          root: Document,
          options: object,
        ): Promise<{ violations: { id: string; impact: string; nodes: { html: string; failureSummary: string }[] }[] }>;
      };
    };
    const { violations } = await run.run(document, { resultTypes: ['violations'], runOnly: { type: 'tag', values: tags } });
    return violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map((v) => `${v.id}: ${v.nodes.map((n) => `${n.html.slice(0, 120)} ${n.failureSummary.slice(0, 220)}`).join('\n')}`);
  }, TAGS);
}
