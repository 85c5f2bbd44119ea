/**
 * A page's end of the live channel: the values it subscribed to, and the state of things. Silence is news: when batches stop
 * coming, every value turns bad here, by itself. What it holds of the project is for the bench and for glasses to say.
 */
import {
  BEAT_MS,
  HOLD_SIGN_MS,
  SILENCE_MS,
  type ClientMessage,
  type LiveSample,
  type ScreenOrder,
  type ServerBatch,
  type ServerChange,
  type ServerHeld,
  type ServerHello,
  type ServerMessage,
  type ServerPart,
  type ServerProof,
} from '@/core/live/messages.ts';
import type { AlarmsNow } from '@/core/alarm/alarmLine.ts';
import type { SignedIn } from '@/core/panel/levels.ts';
import { v7 as uuid } from 'uuid';
import { laterClock } from '@/core/live/laterClock.ts';
import type { Status } from '@/core/live/status.ts';
import { sameWire, type WireJson } from '@/core/live/wireJson.ts';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { qualityInWords, qualityOf, type Quality, type QualityLevel, type QualityReason } from '@/core/value/quality.ts';

/** A tag's value as it may be shown now: a good sample that has grown old is no longer good. */
export interface TagView {
  readonly sample: LiveSample | null;
  readonly level: QualityLevel;
  /** Null when it is good. */
  readonly reason: QualityReason | null;
  /** The same in words; empty when it is good. */
  readonly why: string;
  readonly text: string;
  /** The bytes of its last samples that differ, as hexadecimal, the newest last. */
  readonly recent: readonly WireJson[];
}

/** What a press holds: the state of a button, or a key that tells of it. */
interface Holding {
  readonly panelId: string;
  readonly elementId: string;
  readonly wordId?: string | undefined;
  readonly subject?: number | undefined;
  readonly session?: string | undefined;
}

export type ChannelState = 'connecting' | 'live' | 'silent';
export type Drawn = Extract<ClientMessage, { readonly kind: 'drawn' }>['items'][number];

const NOTHING_YET: TagView = { sample: null, ...viewed(qualityOf('waiting')), text: NO_VALUE_TEXT, recent: [] };
/** Samples of a tag whose bytes are remembered. */
const RECENT = 6;
export const RECONNECT_MS = 700;
const CONNECT_MS = 6000;
/** Values of one batch that are drawn together, and how many of more than that in each frame. */
const DRAWN_AT_ONCE = 250;
const DRAWN_IN_TURN = 60;
const FRAME_MS = 16;
/** The server marks what has grown old; a value that it did not mark so long after is marked here. */
const AGE_ALLOWANCE_MS = 1500;

/** Runs on while the computer sleeps: what is shown when it wakes is old. */
const pageClock = laterClock(
  () => performance.now(),
  () => Date.now(),
);

export abstract class LiveClient {
  state: ChannelState = 'connecting';
  status: Status | null = null;
  /** Alarms as they stand; null until somebody shows them, and they have come. */
  alarms: AlarmsNow | null = null;

  /** Reads what this page has really drawn; only panel pages have one. */
  #readDrawn: ((tagId: string) => readonly Drawn[]) | null = null;
  readonly #views = new Map<string, TagView>();
  readonly #wanted = new Map<string, number>();
  readonly #tagListeners = new Map<string, Set<() => void>>();
  readonly #listeners = new Set<() => void>();
  readonly #writeListeners = new Set<(write: WriteRecord) => void>();
  /** Presses that are held now, with who wants to hear of them. */
  readonly #holds = new Map<string, { readonly told: (held: ServerHeld) => void; readonly stop: () => void }>();
  /** How many show alarms, and whose. */
  #alarmsShown = 0;
  #alarmsOf: string | null = null;
  #socket: WebSocket | null = null;
  #connectingSince = 0;
  #boot = '';
  #lastBatchAt = 0;
  #serverTime = 0;
  #subscribeTimer: ReturnType<typeof setTimeout> | null = null;
  /** Tags whose new values are still to be drawn. */
  readonly #untold = new Set<string>();
  #tellTimer: ReturnType<typeof setTimeout> | null = null;
  #timers: ReturnType<typeof setInterval>[] = [];

  /** What the channel is told of this page. */
  protected readonly query: string = '';
  /** The server is there (again). @param isAnother it was started anew: nothing of before counts */
  protected abstract greeted(hello: ServerHello, isAnother: boolean): void;
  /** Something of the project changed. */
  protected abstract told(message: ServerChange | ServerPart | ServerProof): void;
  /** Which page it shows; only a screen of a panel is told. */
  protected ordered(_order: ScreenOrder): void {}
  /** Who is signed in at it. */
  protected signedIn(_who: SignedIn | null): void {}

  start(): void {
    this.#connect();
    this.#timers = [setInterval(() => this.#watch(), BEAT_MS / 2)];
    document.addEventListener('visibilitychange', this.#watch);
  }

  stop(): void {
    for (const timer of this.#timers) clearInterval(timer);
    document.removeEventListener('visibilitychange', this.#watch);
    const socket = this.#socket;
    this.#socket = null;
    socket?.close();
  }

  /** Server time now, as far as this page can tell. */
  now(): number {
    return this.#serverTime + (pageClock() - this.#lastBatchAt);
  }

  view(tagId: string): TagView {
    return this.#views.get(tagId) ?? NOTHING_YET;
  }

  onChange(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Subscribes to a tag's value for as long as somebody shows it. */
  onTag(tagId: string, listener: () => void): () => void {
    const listeners = this.#tagListeners.get(tagId) ?? new Set();
    listeners.add(listener);
    this.#tagListeners.set(tagId, listeners);
    this.#wanted.set(tagId, (this.#wanted.get(tagId) ?? 0) + 1);
    this.#subscribeSoon();
    return () => {
      listeners.delete(listener);
      const left = (this.#wanted.get(tagId) ?? 1) - 1;
      if (left > 0) this.#wanted.set(tagId, left);
      else {
        this.#wanted.delete(tagId);
        this.#subscribeSoon();
      }
    };
  }

  /** Shows alarms from now on. @param panelId of a panel; null for all of the project. @returns what ends it */
  wantAlarms(panelId: string | null): () => void {
    if (this.#alarmsShown++ === 0 || panelId !== this.#alarmsOf) {
      this.#alarmsOf = panelId;
      this.alarms = null;
      this.send({ kind: 'alarms', panelId });
    }
    return () => {
      this.#alarmsShown--;
    };
  }

  /** Hears of every write to a machine when its outcome is known. */
  onWrite(listener: (write: WriteRecord) => void): () => void {
    this.#writeListeners.add(listener);
    return () => this.#writeListeners.delete(listener);
  }

  /**
   * Holds a state on until the returned function is called, saying again and again that it is still held. The server
   * lets go by itself when the saying stops.
   */
  hold(what: Holding, told: (held: ServerHeld) => void): () => void {
    const hold = uuid();
    if (this.state !== 'live') {
      told({ kind: 'held', hold, phase: 'refused', sentence: 'The server does not answer.' });
      return () => undefined;
    }
    const sign = (): void => this.send({ kind: 'hold', hold, ...what });
    const timer = setInterval(sign, HOLD_SIGN_MS);
    const stop = (): void => {
      clearInterval(timer);
      this.send({ kind: 'release', hold });
    };
    this.#holds.set(hold, { told, stop });
    sign();
    return stop;
  }

  /** A sample that came; what is older than the one that is there does not replace it. */
  takeSample(sample: LiveSample, isPatient = false): void {
    const known = this.#views.get(sample.tagId);
    if (known?.sample && sample.n < known.sample.n) return;
    const next = this.#viewOf(sample, recentWith(known?.recent ?? [], sample.wire));
    // What can be trusted less, or again, is told at once.
    this.#setView(sample.tagId, next, isPatient && known?.level === next.level);
  }

  /** From now on checks are answered with what this reads from the page. */
  answerDrawn(read: (tagId: string) => readonly Drawn[]): () => void {
    this.#readDrawn = read;
    return () => {
      if (this.#readDrawn === read) this.#readDrawn = null;
    };
  }

  #connect(): void {
    const socket = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/api/v1/live${this.query}`);
    this.#socket = socket;
    this.#connectingSince = pageClock();
    socket.onmessage = (event: MessageEvent<string>) => {
      if (this.#socket === socket) this.#take(JSON.parse(event.data) as ServerMessage);
    };
    socket.onclose = () => {
      if (this.#socket !== socket) return;
      this.#socket = null;
      for (const [hold, { told, stop }] of this.#holds) {
        stop();
        told({ kind: 'held', hold, phase: 'off', sentence: 'The server does not answer; it lets go by itself.' });
      }
      this.#holds.clear();
      this.#becomeSilent();
      setTimeout(() => this.#socket === null && this.#timers.length > 0 && this.#connect(), RECONNECT_MS);
    };
  }

  #take(message: ServerMessage): void {
    switch (message.kind) {
      case 'hello':
        // Samples are numbered anew.
        if (message.boot !== this.#boot) this.#views.clear();
        this.greeted(message, message.boot !== this.#boot);
        this.#boot = message.boot;
        this.#subscribeNow();
        if (this.#alarmsShown > 0) this.send({ kind: 'alarms', panelId: this.#alarmsOf });
        break;
      case 'batch':
        this.#takeBatch(message);
        break;
      case 'change':
      case 'part':
      case 'proof':
        this.told(message);
        break;
      case 'write':
        for (const listener of this.#writeListeners) listener(message.write);
        break;
      case 'held': {
        const held = this.#holds.get(message.hold);
        if (message.phase !== 'on') this.#holds.delete(message.hold);
        if (message.phase === 'refused' || message.phase === 'released') held?.stop();
        held?.told(message);
        break;
      }
      case 'screen':
        this.ordered(message);
        break;
      case 'alarms':
        this.alarms = message.now;
        this.tell();
        break;
      case 'signed':
        this.signedIn(message.who);
        break;
      case 'ask':
        this.send({ kind: 'drawn', request: message.request, items: this.#readDrawn?.(message.tagId) ?? [] });
        break;
    }
  }

  #takeBatch(message: ServerBatch): void {
    const woke = this.state !== 'live';
    this.state = 'live';
    this.#lastBatchAt = pageClock();
    this.#serverTime = message.serverTime;
    // What is much is drawn a part at a time, so that a pointer that moves goes on moving.
    const isMuch = message.values.length > DRAWN_AT_ONCE;
    for (const sample of message.values) this.takeSample(sample, isMuch);
    if (message.status) this.status = message.status;
    this.send({ kind: 'ack', batch: message.batch });
    if (woke) this.#refreshAll();
    if (woke || message.status) this.tell();
  }

  readonly #watch = (): void => {
    if (this.state === 'live' && pageClock() - this.#lastBatchAt > SILENCE_MS) this.#becomeSilent();
    else this.#refreshAll();
    // One that does not come about is given up for the next.
    if (this.#socket?.readyState === WebSocket.CONNECTING && pageClock() - this.#connectingSince > CONNECT_MS) this.#socket.close();
  };

  #becomeSilent(): void {
    if (this.state === 'silent') return;
    this.state = 'silent';
    // What they are when the server answers again is told anew.
    this.alarms = null;
    this.#refreshAll();
    this.tell();
  }

  /** Values age without anything arriving. */
  #refreshAll(): void {
    for (const [tagId, view] of this.#views) {
      if (!view.sample) continue;
      const next = this.#viewOf(view.sample, view.recent);
      if (next.level !== view.level || next.why !== view.why) this.#setView(tagId, next);
    }
  }

  #viewOf(sample: LiveSample, recent: readonly WireJson[]): TagView {
    const bad = (quality: Quality): TagView => ({ sample, ...viewed(quality), text: NO_VALUE_TEXT, recent });
    if (this.state === 'silent') return bad(qualityOf('server-silent'));
    const age = this.now() - sample.at;
    const isJudged = sample.quality.level === 'bad' || sample.quality.reason === 'overdue';
    if (!isJudged && sample.freshForMs !== null && age > sample.freshForMs + AGE_ALLOWANCE_MS)
      return bad(qualityOf('aged', `the last one is ${Math.round(age / 1000)} s old`));
    if (sample.quality.level === 'bad') return bad(sample.quality);
    return {
      sample,
      ...viewed(sample.quality),
      text: sample.text,
      recent,
    };
  }

  #setView(tagId: string, view: TagView, isPatient = false): void {
    if (!this.#wanted.has(tagId)) return;
    this.#views.set(tagId, view);
    if (isPatient) {
      this.#untold.add(tagId);
      this.#tellTimer ??= setTimeout(() => this.#tellSome(), 0);
    } else this.#tellOf(tagId);
  }

  #tellOf(tagId: string): void {
    this.#untold.delete(tagId);
    for (const listener of this.#tagListeners.get(tagId) ?? []) listener();
  }

  /** Those that have waited longest. */
  #tellSome(): void {
    let left = DRAWN_IN_TURN;
    for (const tagId of this.#untold) {
      if (left-- === 0) break;
      this.#tellOf(tagId);
    }
    this.#tellTimer = this.#untold.size > 0 ? setTimeout(() => this.#tellSome(), FRAME_MS) : null;
  }

  #subscribeSoon(): void {
    // Once for all that is drawn and taken away in one go.
    this.#subscribeTimer ??= setTimeout(() => this.#subscribeNow(), 0);
  }

  #subscribeNow(): void {
    if (this.#subscribeTimer) clearTimeout(this.#subscribeTimer);
    this.#subscribeTimer = null;
    // Until now the server went on telling them: what another page shows of them it has at once.
    for (const tagId of this.#views.keys()) if (!this.#wanted.has(tagId)) this.#views.delete(tagId);
    this.send({ kind: 'subscribe', tags: [...this.#wanted.keys()] });
  }

  protected send(message: ClientMessage): void {
    if (this.#socket?.readyState === WebSocket.OPEN) this.#socket.send(JSON.stringify(message));
  }

  protected tell(): void {
    for (const listener of this.#listeners) listener();
  }
}

function recentWith(recent: readonly WireJson[], wire: WireJson | null): readonly WireJson[] {
  return wire === null || recent.some((known) => sameWire(known, wire)) ? recent : [...recent.slice(1 - RECENT), wire];
}

function viewed(quality: Quality): Pick<TagView, 'level' | 'reason' | 'why'> {
  return { level: quality.level, reason: quality.reason, why: quality.level === 'good' ? '' : qualityInWords(quality) };
}
