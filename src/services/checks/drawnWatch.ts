/**
 * Looks all the time whether what open pages have drawn is what their controllers hold. A page takes a moment to draw a new value; a text that
 * disagrees for longer than two scans is reported.
 */
import type { PageCheck } from '@/core/check/proof.ts';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { DrawnPages } from './drawnPages.ts';

const ROUND_MS = 1000;
/** Tags that are asked for in one round; the others have their turn after them. */
const AT_ONCE = 25;
/** However fast the scan is, a page gets so long. */
const LEAST_MS = 2000;
const MOST_TOLD = 5;

export interface Disagreement {
  readonly tagId: string;
  readonly elementId: string;
  readonly pageName: string;
  readonly label: string;
  readonly drawn: string;
  /** What its sample says; null where it shows a sample that was replaced long ago. */
  readonly expected: string | null;
  readonly sinceMs: number;
}

interface Doubted {
  readonly check: PageCheck;
  readonly tagId: string;
  readonly since: number;
}

export interface WatchSources {
  /** Pages that some screen shows. */
  readonly openPages: () => readonly string[];
  /** Keeps the newest samples of a tag until it is told otherwise. */
  readonly keep: (tagId: string) => () => void;
}

export class DrawnWatch {
  readonly #model: ProjectModel;
  readonly #pages: DrawnPages;
  readonly #clock: Clock;
  readonly #sources: WatchSources;
  readonly #kept = new Map<string, () => void>();
  /** By element. */
  readonly #doubted = new Map<string, Doubted>();
  #turn = 0;
  #cancel: () => void = () => undefined;

  constructor(model: ProjectModel, pages: DrawnPages, clock: Clock, sources: WatchSources) {
    this.#model = model;
    this.#pages = pages;
    this.#clock = clock;
    this.#sources = sources;
  }

  start(): void {
    this.#cancel = this.#clock.after(ROUND_MS, () => void this.look().finally(() => this.start()));
  }

  close(): void {
    this.#cancel();
    for (const forget of this.#kept.values()) forget();
    this.#kept.clear();
  }

  /** One round. */
  async look(): Promise<void> {
    const open = this.#tagsOpen();
    for (const [tagId, forget] of this.#kept)
      if (!open.has(tagId)) {
        forget();
        this.#kept.delete(tagId);
      }
    for (const tagId of open) if (!this.#kept.has(tagId)) this.#kept.set(tagId, this.#sources.keep(tagId));
    for (const [elementId, { tagId }] of this.#doubted) if (!open.has(tagId)) this.#doubted.delete(elementId);
    const tags = [...open];
    if (tags.length === 0) return;
    const mine = Array.from({ length: Math.min(AT_ONCE, tags.length) }, (_, i) => tags[(this.#turn + i) % tags.length] ?? '');
    this.#turn = (this.#turn + mine.length) % tags.length;
    await Promise.all(mine.map(async (tagId) => this.#judge(tagId, await this.#pages.check(tagId))));
  }

  /** What has disagreed for longer than two scans. */
  get disagreements(): readonly Disagreement[] {
    const now = this.#clock.now();
    return [...this.#doubted.entries()].flatMap(([elementId, { check, tagId, since }]) => {
      const signal = this.#model.effective(tagId);
      const patience = Math.max(LEAST_MS, signal.ok ? 2 * signal.value.periodMs : 0);
      if (now - since <= patience) return [];
      const { pageName, label, drawn, expected } = check;
      return [{ tagId, elementId, pageName, label: label || (this.#model.get('tag', tagId)?.name ?? ''), drawn, expected, sinceMs: now - since }];
    });
  }

  /** In a sentence; null while all agree. */
  get sentence(): string | null {
    const all = this.disagreements;
    if (all.length === 0) return null;
    const told = all.slice(0, MOST_TOLD).map(({ pageName, label, drawn, expected, sinceMs }) => {
      const seconds = Math.round(sinceMs / 1000);
      return expected === null
        ? `${pageName}, ${label} has shown ${drawn} for ${seconds} s though its value is another`
        : `${pageName}, ${label} shows ${drawn} where its controller holds ${expected}, for ${seconds} s`;
    });
    return `${told.join('; ')}${all.length > MOST_TOLD ? `; and ${all.length - MOST_TOLD} more` : ''}.`;
  }

  #judge(tagId: string, checks: readonly PageCheck[]): void {
    // Two screens may show one element: the one that disagrees counts.
    const wrong = new Map<string, PageCheck>();
    for (const check of checks) if (check.verdict === 'differs' || check.verdict === 'sample-gone') wrong.set(check.elementId, check);
    for (const [elementId, check] of wrong)
      this.#doubted.set(elementId, { check, tagId, since: this.#doubted.get(elementId)?.since ?? this.#clock.now() });
    for (const [elementId, doubted] of this.#doubted) if (doubted.tagId === tagId && !wrong.has(elementId)) this.#doubted.delete(elementId);
  }

  #tagsOpen(): ReadonlySet<string> {
    const pages = new Set(this.#sources.openPages());
    const tags = new Set<string>();
    if (pages.size === 0) return tags;
    for (const element of this.#model.all('element'))
      if (element.tagId !== null && pages.has(element.pageId) && ELEMENTS[element.kind].showsText) tags.add(element.tagId);
    return tags;
  }
}
