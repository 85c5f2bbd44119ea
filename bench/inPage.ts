/** Times that are taken inside a page. */
import type { Page } from 'puppeteer-core';

/**
 * From an action until the frame in which it is done has been painted.
 * @param act code that runs in the page
 * @param done an expression there; `before` is what the status line said before
 */
export function measured(page: Page, act: string, done: string): Promise<number> {
  return page.evaluate(`(async () => {
    const status = document.querySelector('main [role="status"]');
    const before = status ? status.textContent : '';
    const begun = performance.now();
    ${act};
    do {
      if (performance.now() - begun > 20000) throw new Error('waited in vain after ' + ${JSON.stringify(act)});
      await new Promise((resolve) => requestAnimationFrame(resolve));
    } while (!(${done}));
    // The next one begins once this one is painted.
    await new Promise((resolve) => requestAnimationFrame(resolve));
    return performance.now() - begun;
  })()`) as Promise<number>;
}
