/**
 * What panels and controllers say to each other. A controller commands pages and is answered; it is told the page that is shown,
 * and the time. All of it is written under the guard, as panels write, and what may not be written now is not written later: once
 * it may be, the controller is told how things are then.
 */
import { group } from 'd3-array';
import { v7 as uuid } from 'uuid';
import { COMMAND_RESULTS, pageFor, RESULT_WORDS, ROLES, saidOf, wordTag, type CommandResult, type WordRole } from '@/core/panel/exchange.ts';
import type { PanelAtWork } from '@/core/live/panelAtWork.ts';
import type { Panel, PanelWord } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { asNumber, type EngValue } from '@/core/value/engineering.ts';
import { countAt } from '@/core/value/timeText.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { PreparedWrite, Writer } from '@/runtime/writer.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { WriteService } from '../writeService.ts';
import type { PanelDesks } from './panelDesks.ts';

/** How often it is looked whether what could not be written may be now, and whether the time of a day has come. */
const LOOK_MS = 250;
const MINUTE_MS = 60_000;
const DAY_MS = 86_400_000;

interface AtWork {
  readonly panelId: string;
  readonly words: ReadonlyMap<WordRole, PanelWord>;
  /** The last good values of words of the controller, and when they were read. */
  readonly heard: Map<WordRole, { readonly value: EngValue; readonly at: number }>;
  /** What a word should hold, and what it was last sent. */
  readonly wanted: Map<WordRole, number>;
  readonly told: Map<WordRole, number>;
  command: PanelAtWork['command'];
  /** The latest command that is still to be followed: of many only that. */
  next: { readonly said: number; readonly answer: number } | null;
  /** When a request was read whose page has not been read since. */
  requestedAt: number | null;
  isFollowing: boolean;
  isTelling: boolean;
  untold: string;
  /** The day whose time is written already. */
  clockDay: string;
}

export interface ExchangeRuntime {
  readonly engine: Engine;
  readonly writer: Writer;
  readonly guard: WriteGuard;
  readonly writes: WriteService;
  readonly clock: Clock;
  readonly desks: PanelDesks;
}

/** Words that tell how things are, in the order in which a controller may rely on them: a result stands before its answer. */
const TOLD: readonly WordRole[] = ['page', 'languageShown', 'level', 'result', 'answer'];

export class PanelExchange {
  readonly #model: ProjectModel;
  readonly #runtime: ExchangeRuntime;
  #panels = new Map<string, AtWork>();
  #uses = new Map<string, readonly { readonly panel: AtWork; readonly role: WordRole }[]>();
  readonly #underWay = new Set<Promise<void>>();
  #cancel: () => void = () => undefined;
  #stopListening: () => void = () => undefined;
  #isClosed = false;

  constructor(model: ProjectModel, runtime: ExchangeRuntime) {
    this.#model = model;
    this.#runtime = runtime;
  }

  start(): void {
    this.follow();
    this.#stopListening = this.#runtime.engine.live.onSample((tagId) => {
      for (const { panel, role } of this.#uses.get(tagId) ?? []) this.#heard(panel, role, tagId);
    });
    this.#runtime.desks.onChange((panelId) => this.#pageChanged(panelId));
    this.#look();
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    this.#cancel();
    this.#stopListening();
    await Promise.allSettled(this.#underWay);
  }

  /** Follows a change of the project. What was heard and told by words that stay is still known. */
  follow(): void {
    const before = this.#panels;
    this.#panels = new Map();
    const uses = new Map<string, { readonly panel: AtWork; readonly role: WordRole }[]>();
    for (const [panelId, words] of group(this.#model.all('panelWord'), (word) => word.panelId)) {
      const byRole = new Map(words.flatMap((word) => (word.role === 'key' ? [] : [[word.role, word]])));
      const known = before.get(panelId);
      const isSame = known?.words.size === byRole.size && [...byRole].every(([role, { tagId }]) => known.words.get(role)?.tagId === tagId);
      const panel = isSame ? known : this.#newAtWork(panelId, byRole);
      this.#panels.set(panelId, panel);
      for (const [role, { tagId }] of byRole) uses.set(tagId, [...(uses.get(tagId) ?? []), { panel, role }]);
    }
    this.#uses = uses;
    for (const panelId of this.#panels.keys()) this.#pageChanged(panelId);
  }

  /** Panels that screens show, or that a controller speaks to. */
  all(): readonly PanelAtWork[] {
    const { desks } = this.#runtime;
    return [...new Set([...this.#panels.keys(), ...desks.open])].map((panelId) => {
      const panel = this.#panels.get(panelId);
      return {
        panelId,
        pageId: desks.page(panelId),
        screens: desks.screens(panelId),
        command: panel?.command ?? null,
        untold: panel?.untold ?? '',
      };
    });
  }

  #newAtWork(panelId: string, words: ReadonlyMap<WordRole, PanelWord>): AtWork {
    return {
      panelId,
      words,
      heard: new Map(),
      wanted: new Map(),
      told: new Map(),
      command: null,
      next: null,
      requestedAt: null,
      isFollowing: false,
      isTelling: false,
      untold: '',
      // What the day has seen already is not made up for.
      clockDay: this.#isClockDue(panelId) ? this.#today() : '',
    };
  }

  #panelOf({ panelId }: Pick<AtWork, 'panelId'>): Panel | null {
    return this.#model.get('panel', panelId);
  }

  /** A new value of a word of the controller. One that is not good says nothing. */
  #heard(panel: AtWork, role: WordRole, tagId: string): void {
    if (ROLES[role].by !== 'controller') return;
    const sample = this.#runtime.engine.live.get(tagId);
    if (sample?.quality.level !== 'good' || sample.eng === null) return;
    const before = panel.heard.get(role);
    panel.heard.set(role, { value: sample.eng, at: sample.at });
    const isAnother = before !== undefined && before.value !== sample.eng;
    if (role === 'clockAsk' && before?.value === false && sample.eng === true) this.#follow(this.#writeTime(panel, 'asked for'));
    if (role === 'request' && isAnother) panel.requestedAt = sample.at;
    if (role === 'request' || role === 'wanted') this.#mayBeCommand(panel, role, isAnother, before === undefined);
  }

  /**
   * With a request word a command is another number in it, and the page that was read with it or later; else another page.
   * What stands there when the controller is first heard is no command, but where the controller always prevails.
   */
  #mayBeCommand(panel: AtWork, role: WordRole, isAnother: boolean, isFirst: boolean): void {
    const wanted = panel.heard.get('wanted');
    const said = wanted && asNumber(wanted.value);
    if (said === null || said === undefined) return;
    const isKept = isFirst && this.#panelOf(panel)?.exchange.whenBoth === 'controller';
    const request = panel.heard.get('request');
    if (!panel.words.has('request')) {
      if (role === 'wanted' && (isAnother || isKept)) this.#command(panel, said, said);
      return;
    }
    const answer = request && asNumber(request.value);
    if (answer === null || answer === undefined || wanted === undefined) return;
    if (isKept || (panel.requestedAt !== null && wanted.at >= panel.requestedAt)) {
      panel.requestedAt = null;
      this.#command(panel, said, answer);
    }
  }

  #command(panel: AtWork, said: number, answer: number): void {
    panel.next = { said, answer };
    if (panel.isFollowing) return;
    panel.isFollowing = true;
    this.#follow(this.#carryOut(panel));
  }

  async #carryOut(panel: AtWork): Promise<void> {
    try {
      for (let next = panel.next; next !== null && !this.#isClosed; next = panel.next) {
        panel.next = null;
        const result = await this.#resultOf(panel, next.said);
        panel.command = { said: next.said, result, at: this.#runtime.clock.now() };
        panel.wanted.set('result', COMMAND_RESULTS[result]);
        panel.wanted.set('answer', next.answer);
        // The same command again is answered again.
        panel.told.delete('answer');
        this.#tell(panel);
      }
    } finally {
      panel.isFollowing = false;
    }
  }

  async #resultOf({ panelId }: AtWork, said: number): Promise<CommandResult> {
    const { desks, clock } = this.#runtime;
    const panel = this.#model.get('panel', panelId);
    if (!panel) return 'noPage';
    const { whenBoth, personSeconds, noWish } = panel.exchange;
    if (said === noWish) {
      desks.release(panelId);
      return 'done';
    }
    const pageId = pageFor(this.#model.pagesOf(panelId), panel.exchange, said);
    if (pageId === null) return 'noPage';
    if (whenBoth === 'person' && clock.now() - desks.touchedAt(panelId) < personSeconds * 1000) return 'person';
    const level = desks.level(panelId);
    if (level !== null && (this.#model.get('page', pageId)?.level ?? 0) > level) return 'level';
    return desks.command(panelId, pageId);
  }

  #pageChanged(panelId: string): void {
    const panel = this.#panels.get(panelId);
    const pageId = this.#runtime.desks.page(panelId);
    const exchange = this.#model.get('panel', panelId)?.exchange;
    if (!panel || pageId === null || !exchange) return;
    const said = saidOf(this.#model.pagesOf(panelId), exchange, pageId);
    if (said !== null) panel.wanted.set('page', said);
    const language = this.#runtime.desks.language(panelId);
    if (language !== null) panel.wanted.set('languageShown', language);
    const level = this.#runtime.desks.level(panelId);
    if (level !== null) panel.wanted.set('level', level);
    this.#tell(panel);
  }

  #look(): void {
    this.#cancel = this.#runtime.clock.after(LOOK_MS, () => {
      for (const panel of this.#panels.values()) {
        this.#tell(panel);
        if (!this.#isClockDue(panel.panelId) || panel.clockDay === this.#today()) continue;
        panel.clockDay = this.#today();
        this.#follow(this.#writeTime(panel, 'written once a day'));
      }
      this.#look();
    });
  }

  /** Writes what the controller should hold and was not sent. Each is sent once: of one that failed only the next is sent. */
  #tell(panel: AtWork): void {
    if (panel.isTelling || this.#isClosed) return;
    panel.isTelling = true;
    this.#follow(this.#telling(panel));
  }

  async #telling(panel: AtWork): Promise<void> {
    try {
      while (await this.#tellDue(panel)) continue;
    } finally {
      panel.isTelling = false;
    }
  }

  /** @returns whether something was sent: what changed meanwhile is next */
  async #tellDue(panel: AtWork): Promise<boolean> {
    const due: { readonly role: WordRole; readonly value: number; readonly prepared: PreparedWrite }[] = [];
    let untold = '';
    for (const role of TOLD) {
      const value = panel.wanted.get(role);
      const word = panel.words.get(role);
      if (word === undefined || value === undefined || panel.told.get(role) === value) continue;
      const prepared = this.#prepared(word, value);
      if (prepared.ok) due.push({ role, value, prepared: prepared.value });
      else untold = prepared.problem.message;
    }
    panel.untold = untold;
    if (due.length === 0) return false;
    for (const { role, value } of due) panel.told.set(role, value);
    for (const [deviceId, ofDevice] of group(due, ({ prepared }) => deviceIdOf(prepared.target.tag)))
      await this.#send(
        panel,
        deviceId,
        ofDevice.map(({ prepared }) => prepared),
        ofDevice.map(({ role, value }) => `${ROLES[role].label}${role === 'result' ? `: ${RESULT_WORDS[resultOf(value)]}` : ''}`).join(', '),
      );
    return true;
  }

  /** What a word of the panel is written with. */
  #prepared({ role, tagId }: PanelWord, value: number | bigint) {
    const signal = this.#model.effective(tagId);
    if (!signal.ok) return signal;
    const fits = wordTag(role, signal.value.def, signal.value.writable);
    return fits.ok ? this.#runtime.writer.prepare(tagId, value, { writer: 'panel' }) : fits;
  }

  async #send({ panelId }: AtWork, deviceId: string | null, all: readonly PreparedWrite[], what: string): Promise<void> {
    const { guard, writes } = this.#runtime;
    await writes.sendAll(
      all.map((prepared) => ({ id: uuid(), prepared })),
      {
        origin: 'panel',
        note: `${this.#model.get('panel', panelId)?.name ?? 'A panel'}, by itself: ${what}.`,
        mayStill: () => !this.#isClosed && guard.permits(deviceId, 'panel') !== null,
      },
    );
  }

  /** The time of this computer as its clock shows it: controllers know no zones. */
  async #writeTime(panel: AtWork, why: string): Promise<void> {
    const word = panel.words.get('clock');
    const signal = word && this.#model.effective(word.tagId);
    const type = signal?.ok === true ? signal.value.def.type : null;
    if (word === undefined || type?.kind !== 'integer' || type.time === null) return;
    const prepared = this.#prepared(word, countAt(type.time, wallClock(this.#runtime.clock.now())));
    panel.untold = prepared.ok ? '' : prepared.problem.message;
    if (prepared.ok) await this.#send(panel, deviceIdOf(prepared.value.target.tag), [prepared.value], `${ROLES.clock.label}, ${why}`);
  }

  #isClockDue(panelId: string): boolean {
    const minute = this.#model.get('panel', panelId)?.exchange.clockDaily ?? null;
    const now = wallClock(this.#runtime.clock.now());
    return minute !== null && Math.floor((now % DAY_MS) / MINUTE_MS) >= minute;
  }

  #today(): string {
    return new Date(wallClock(this.#runtime.clock.now())).toISOString().slice(0, 10);
  }

  #follow(work: Promise<void>): void {
    const followed: Promise<void> = work
      .catch((error: unknown) => console.error('A controller could not be told:', error))
      .finally(() => this.#underWay.delete(followed));
    this.#underWay.add(followed);
  }
}

function resultOf(code: number): CommandResult {
  const [name = 'done'] = (Object.keys(COMMAND_RESULTS) as CommandResult[]).filter((key) => COMMAND_RESULTS[key] === code);
  return name;
}

/** A moment as a clock on the wall shows it, in milliseconds as if that were UTC. */
function wallClock(ms: number): number {
  return ms - new Date(ms).getTimezoneOffset() * MINUTE_MS;
}
