/** Drives the real interface in Debian's headless Chromium, by what a person sees: roles, labels and texts. */
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core';

const ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--lang=en-GB',
];

export function openBrowser(): Promise<Browser> {
  return puppeteer.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: ARGS });
}

export class Screen {
  /** What the page complained about. */
  readonly complaints: string[] = [];

  private constructor(readonly page: Page) {
    page.setDefaultTimeout(15_000);
    page.on('pageerror', (error) => this.complaints.push(String(error)));
    page.on(
      'console',
      (message) => message.type() === 'error' && !/Failed to load resource|WebSocket/.test(message.text()) && this.complaints.push(message.text()),
    );
  }

  static of(page: Page): Screen {
    return new Screen(page);
  }

  static async open(browser: Browser, url: string): Promise<Screen> {
    const page = await browser.newPage();
    await page.setViewport({ width: 1280, height: 800 });
    const screen = new Screen(page);
    await page.goto(url, { waitUntil: 'domcontentloaded' });
    return screen;
  }

  async go(step: string): Promise<void> {
    // A dialog that is just closing still lies over everything else, and takes the click.
    await this.page.waitForFunction(() => !document.querySelector('dialog:modal'));
    await (await this.find(`nav[aria-label="Line of work"] a[href="/${step.toLowerCase()}"]`)).click();
    await this.page.waitForFunction((path) => location.pathname.startsWith(path), {}, `/${step.toLowerCase()}`);
  }

  find(selector: string): Promise<ElementHandle> {
    return this.page.waitForSelector(selector, { visible: true }).then((found) => {
      if (!found) throw new Error(`nothing found for ${selector}`);
      return found;
    });
  }

  /** Presses the button of that name once it can be pressed. */
  async press(name: string, within = ''): Promise<void> {
    await (await this.button(name, within)).click();
  }

  async button(name: string, within = ''): Promise<ElementHandle<HTMLElement>> {
    const handle = await this.page.waitForFunction(
      (wanted, scope) => {
        const root = scope ? document.querySelector(scope) : document;
        const buttons = [...(root?.querySelectorAll<HTMLButtonElement>('button, a') ?? [])];
        // A dialog that is just closing still lies over everything else.
        const modal = document.querySelector('dialog:modal');
        const isFree = (b: Element): boolean => !modal || modal.contains(b);
        const nameOf = (b: HTMLElement): string => (b.getAttribute('aria-label') ?? b.innerText.replace(/\s+/g, ' ')).trim();
        const free = buttons.filter((b) => isFree(b) && !b.disabled && b.offsetParent !== null);
        return free.find((b) => nameOf(b) === wanted) ?? free.find((b) => nameOf(b).includes(wanted)) ?? false;
      },
      {},
      name,
      within,
    );
    return handle as unknown as ElementHandle<HTMLElement>;
  }

  /** Fills the field of that label. */
  async fill(label: string, text: string, within = ''): Promise<void> {
    const field = await this.field(label, within);
    await field.click({ count: 3 });
    await field.press('Backspace');
    if (text !== '') await field.type(text);
  }

  async choose(label: string, value: string, within = ''): Promise<void> {
    await (await this.field(label, within)).select(value);
  }

  async field(label: string, within = ''): Promise<ElementHandle<HTMLInputElement>> {
    const handle = await this.page.waitForFunction(
      (wanted, scope) => {
        const root = scope ? document.querySelector(scope) : document;
        const fields = [...(root?.querySelectorAll<HTMLInputElement>('input, select, textarea') ?? [])];
        const labelOf = (f: HTMLInputElement): string => (f.getAttribute('aria-label') ?? (f.labels?.[0] ? f.labels[0].innerText : '')).trim();
        return fields.find((f) => labelOf(f) === wanted) ?? fields.find((f) => labelOf(f).startsWith(wanted)) ?? false;
      },
      {},
      label,
      within,
    );
    return handle as unknown as ElementHandle<HTMLInputElement>;
  }

  async sees(text: string, within = 'body'): Promise<void> {
    await this.page
      .waitForFunction(
        (wanted, scope) => [...document.querySelectorAll<HTMLElement>(scope)].some((e) => e.innerText.includes(wanted)),
        {},
        text,
        within,
      )
      .catch(async () => {
        throw new Error(
          `waited in vain for “${text}” in ${within}; it says: ${(await this.text(within)).slice(0, 600)}; the page: ${(await this.text('body')).slice(0, 300)}`,
        );
      });
  }

  text(selector: string): Promise<string> {
    return this.page.evaluate((s) => [...document.querySelectorAll<HTMLElement>(s)].map((e) => e.innerText).join('\n'), selector);
  }

  /** The text of one cell of the row of a tag in a grid. */
  cell(tag: string, column: string): Promise<string> {
    return this.text(`[role=row][data-tag="${tag}"] [data-column="${column}"]`);
  }

  /** Edits one cell in place by keyboard, as a person would. */
  async editCell(tag: string, column: string, text: string): Promise<void> {
    await (await this.find(`[role=row][data-tag="${tag}"] [data-column="${column}"]`)).click();
    await this.page.keyboard.press('Enter');
    const input = await this.find(`[role=row][data-tag="${tag}"] [data-column="${column}"] input`);
    await input.click({ count: 3 });
    await this.page.keyboard.type(text);
    await this.page.keyboard.press('Enter');
  }

  async pickTag(label: string, name: string): Promise<void> {
    // A field that has just been replaced by the next one's cannot be pressed: then there is a new one.
    await (await this.field(label)).click().catch(async () => (await this.field(label)).click());
    await this.page.keyboard.type(name);
    await this.find('[role=option]');
    await this.page.keyboard.press('Enter');
  }
}
