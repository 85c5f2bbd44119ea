/** The same things done with the mouse, and with nothing but the keyboard: Tab, arrows, Enter, Space and letters. */
import type { ElementHandle } from 'puppeteer-core';
import { until } from '../tests/support/until.ts';
import type { Screen } from './browser.ts';

export interface Hand {
  readonly name: string;
  press(screen: Screen, name: string, within?: string): Promise<void>;
  /** Writes into a field in place of what was there. */
  fill(screen: Screen, label: string, text: string, within?: string): Promise<void>;
  choose(screen: Screen, label: string, value: string, within?: string): Promise<void>;
  tick(screen: Screen, label: string, within?: string): Promise<void>;
  /** Chooses an element of the page that is arranged. */
  pick(screen: Screen, selector: string): Promise<void>;
  /** Moves what is chosen, by about so many pixels of the page. */
  move(screen: Screen, selector: string, by: { readonly x: number; readonly y: number }): Promise<void>;
  hold(screen: Screen, selector: string, meanwhile: () => Promise<void>): Promise<void>;
  /** Sets a handle to the middle between its ends. */
  slideToMiddle(screen: Screen, label: string): Promise<void>;
  /** Enters a number on the glass. */
  enter(screen: Screen, digits: string): Promise<void>;
}

async function middle(of: ElementHandle): Promise<{ readonly x: number; readonly y: number }> {
  const box = await of.boundingBox();
  if (!box) throw new Error('it is not seen');
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
}

export const mouse: Hand = {
  name: 'mouse',
  press: (screen, name, within) => screen.press(name, within),
  fill: (screen, label, text, within) => screen.fill(label, text, within),
  choose: (screen, label, value, within) => screen.choose(label, value, within),
  async tick(screen, label, within) {
    await (await screen.field(label, within)).click();
  },
  async pick(screen, selector) {
    await (await screen.find(selector)).click();
  },
  async move(screen, selector, by) {
    const { page } = screen;
    const from = await middle(await screen.find(selector));
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(from.x + by.x, from.y + by.y, { steps: 8 });
    await page.mouse.up();
  },
  async hold(screen, selector, meanwhile) {
    const at = await middle(await screen.find(selector));
    await screen.page.mouse.move(at.x, at.y);
    await screen.page.mouse.down();
    await meanwhile();
    await screen.page.mouse.up();
  },
  async slideToMiddle(screen, label) {
    const at = await middle(await screen.field(label));
    await screen.page.mouse.click(at.x, at.y);
  },
  async enter(screen, digits) {
    for (const one of digits) await (await screen.find(`dialog [aria-label="${one === '.' ? 'Point' : one}"]`)).click();
    await screen.press('Write', 'dialog');
  },
};

const FARTHEST = 600;

/** Walks with Tab, or back, until it has the focus. */
async function reach({ page }: Screen, wanted: ElementHandle): Promise<void> {
  for (let i = 0; i < FARTHEST; i++) {
    const way = await wanted.evaluate((element) => {
      const now = document.activeElement;
      if (now === element) return 'there';
      if (!element.isConnected) return 'gone';
      return now && now !== document.body && element.compareDocumentPosition(now) & Node.DOCUMENT_POSITION_FOLLOWING ? 'back' : 'on';
    });
    if (way === 'there') return;
    if (way === 'gone') break;
    if (way === 'back') await page.keyboard.down('Shift');
    await page.keyboard.press('Tab');
    if (way === 'back') await page.keyboard.up('Shift');
  }
  throw new Error(`not reached by Tab: ${await wanted.evaluate((element) => element.outerHTML.slice(0, 200))}`);
}

/** What is drawn anew while one walks to it is looked for again. */
async function reachAgain(screen: Screen, find: () => Promise<ElementHandle>): Promise<ElementHandle> {
  for (let i = 0; ; i++) {
    const found = await find();
    try {
      await reach(screen, found);
      return found;
    } catch (error) {
      if (i === 2) throw error;
    }
  }
}

export const keys: Hand = {
  name: 'keyboard alone',
  async press(screen, name, within) {
    await reachAgain(screen, () => screen.button(name, within));
    await screen.page.keyboard.press('Enter');
  },
  async fill(screen, label, text, within) {
    await reachAgain(screen, () => screen.field(label, within));
    const { keyboard } = screen.page;
    await keyboard.down('Control');
    await keyboard.press('a');
    await keyboard.up('Control');
    await keyboard.press('Backspace');
    await keyboard.type(text);
  },
  async choose(screen, label, value, within) {
    const field = await reachAgain(screen, () => screen.field(label, within));
    const [now, to] = await field.evaluate((select, wanted) => {
      const { options, selectedIndex } = select as HTMLSelectElement;
      return [selectedIndex, [...options].findIndex((option) => option.value === wanted)] as const;
    }, value);
    if (to < 0) throw new Error(`${label} has no ${value}`);
    // A list that is chosen from is gone on with by the first letters of its items: arrows would choose each on the way.
    const text = await field.evaluate((select, at) => (select as HTMLSelectElement).options[at]?.text ?? '', to);
    if (now !== to) await screen.page.keyboard.type(text.slice(0, 24));
    await screen.page.keyboard.press('Enter');
  },
  async tick(screen, label, within) {
    await reachAgain(screen, () => screen.field(label, within));
    await screen.page.keyboard.press('Space');
  },
  async pick(screen, selector) {
    await reachAgain(screen, () => screen.find(selector));
    await screen.page.keyboard.press('Enter');
  },
  async move(screen, selector, by) {
    await keys.pick(screen, selector);
    for (let i = 0; i < Math.round(by.x / 8); i++) await screen.page.keyboard.press('ArrowRight');
    for (let i = 0; i < Math.round(by.y / 8); i++) await screen.page.keyboard.press('ArrowDown');
  },
  async hold(screen, selector, meanwhile) {
    await reachAgain(screen, () => screen.find(selector));
    await screen.page.keyboard.down('Space');
    await meanwhile();
    await screen.page.keyboard.up('Space');
  },
  async slideToMiddle(screen, label) {
    const field = await reachAgain(screen, () => screen.field(label));
    await screen.page.keyboard.press('Home');
    const isThere = () =>
      (field as ElementHandle<HTMLInputElement>).evaluate(({ value, min, max }) => Number(value) >= (Number(min) + Number(max)) / 2);
    for (let i = 0; i < 12 && !(await isThere()); i++) await screen.page.keyboard.press('PageUp');
    await until('it stands in the middle', isThere);
  },
  async enter(screen, digits) {
    // The field has the focus already.
    await screen.find('dialog input:focus');
    await screen.page.keyboard.type(digits);
    await screen.page.keyboard.press('Enter');
  },
};
