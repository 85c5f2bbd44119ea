/**
 * The live channel: one WebSocket a page. Values are batched, only those subscribed to, and acknowledged, so that
 * a slow page gets the latest and never a backlog.
 */
import { randomUUID } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import { WebSocket, WebSocketServer } from 'ws';
import { array, number, object, string } from 'yup';
import { BEAT_MS, type ClientMessage, type ServerMessage } from '@/core/live/messages.ts';
import { nextTurn } from '@/core/inSlices.ts';
import type { Peer } from '@/core/live/network.ts';
import type { Status } from '@/core/live/status.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import type { DrawnText } from '@/services/checks/drawnPages.ts';
import type { Proofs } from '@/services/checks/proofs.ts';
import { liveSample } from '@/services/liveSample.ts';
import { panelSample } from '@/services/seenFromPanels.ts';
import type { Screen } from '@/services/panels/panelDesks.ts';
import type { PanelWork } from '@/services/panelWork.ts';
import type { ProjectService } from '@/services/projectService.ts';

const BATCH_MS = 50;
/** Batches that a page may leave unacknowledged before it gets no more. */
const UNACKNOWLEDGED = 2;
/** Bytes waiting in the socket above which a page is no longer told single changes; it loads anew instead. */
const BACKLOG_BYTES = 1_000_000;
/** Bytes waiting in the socket above which a page gets no values: it is behind, whatever it acknowledges. */
const WAITING_BYTES = 250_000;
/** Messages of one page that are taken between two batches; a page with many held buttons sends ten. */
const BUDGET = 100;
/** Changes that go over in one message, and how long a slow page is waited for between two. */
const PART = 200;
const ROOM_MS = 2000;
const ASK_TIMEOUT_MS = 1500;
const MAX_MESSAGE_BYTES = 4_000_000;
const MAX_SUBSCRIBED = 20_000;

const MESSAGE_SCHEMAS: Readonly<Record<ClientMessage['kind'], { isValidSync(value: unknown): boolean }>> = {
  subscribe: object({ kind: string().required(), tags: array().of(string().max(36).required()).max(MAX_SUBSCRIBED).required() }),
  hold: object({
    kind: string().required(),
    hold: string().max(36).required(),
    panelId: string().max(36).required(),
    elementId: string().max(36).required(),
    wordId: string().max(36),
    subject: number().integer(),
    session: string().max(64),
  }),
  session: object({ kind: string().required(), panelId: string().max(36).required(), token: string().max(64).nullable().defined() }),
  screen: object({
    kind: string().required(),
    panelId: string().max(36).required(),
    pageId: string().max(36).nullable().defined(),
    order: number().integer().nullable().defined(),
    language: number().integer().nullable().defined(),
  }),
  alarms: object({ kind: string().required(), panelId: string().max(36).nullable().defined() }),
  release: object({ kind: string().required(), hold: string().max(36).required() }),
  ack: object({ kind: string().required(), batch: number().integer().required() }),
  drawn: object({
    kind: string().required(),
    request: number().integer().required(),
    items: array()
      .of(
        object({
          elementId: string().max(36).required(),
          text: string().max(2000).defined(),
          sample: number().integer().required(),
          visibility: string().oneOf(['visible', 'hidden']).required(),
          language: string().max(35).nullable().defined(),
        }),
      )
      .max(500)
      .required(),
  }),
};

interface Client {
  readonly socket: WebSocket;
  readonly peer: Peer | null;
  /** It holds a panel alone: of changes it hears that there are some, and asks for its panel again. */
  readonly isGlass: boolean;
  tags: Set<string>;
  /** Ends that its tags are read for it. */
  unwant: () => void;
  readonly dirty: Set<string>;
  /** The panel that it shows as a screen of it. */
  screen: Screen | null;
  /** Of who is signed in at it. */
  token: string | null;
  /** Whose alarms it shows: a panel's, or null for all; undefined for none. */
  alarmsOf: string | null | undefined;
  /** They are not told as they are now. */
  alarmsChanged: boolean;
  /** Presses that this page holds. */
  readonly holds: Set<string>;
  sent: number;
  acknowledged: number;
  lastSentAt: number;
  statusText: string;
  missedChange: boolean;
  /** Messages that are still taken before the next batch. */
  budget: number;
}

/** What it tells of, and whom it asks. */
export interface ChannelServices extends Pick<
  PanelWork,
  'model' | 'engine' | 'holds' | 'signIn' | 'alarms' | 'writes' | 'desks' | 'panels' | 'panelAlarms'
> {
  readonly projects: Pick<ProjectService, 'revision' | 'onApplied'>;
  readonly checks: { readonly proofs: Pick<Proofs, 'onProof'> };
  status(): Status;
  panelStatus(): Status;
}

export class LiveChannel {
  readonly #sockets = new WebSocketServer({ noServer: true, maxPayload: MAX_MESSAGE_BYTES });
  readonly #clients = new Set<Client>();
  readonly #boot = randomUUID();
  /** What pages were asked for; each may answer for itself alone. */
  readonly #asks = new Map<number, { readonly client: Client; readonly finish: (items: readonly DrawnText[]) => void }>();
  #services: ChannelServices | null = null;
  #nextAsk = 1;
  /** Settles when the last change was told. */
  #changes: Promise<void> = Promise.resolve();
  #timer: NodeJS.Timeout | null = null;

  /** Values flow from here on. */
  begin(services: ChannelServices): void {
    this.#services = services;
    services.engine.live.onSample((tagId) => {
      for (const client of this.#clients) if (client.tags.has(tagId)) client.dirty.add(tagId);
    });
    services.holds.onReleased = (hold, why) => {
      for (const client of this.#clients) if (client.holds.has(hold)) this.#send(client, { kind: 'held', hold, phase: 'released', sentence: why });
    };
    services.signIn.onEnded((token) => {
      for (const client of this.#clients)
        if (client.token === token) this.#signed(client, { kind: 'session', panelId: client.screen?.panelId ?? '', token: null });
    });
    services.alarms.onChange(() => {
      for (const client of this.#clients) if (client.alarmsOf !== undefined) client.alarmsChanged = true;
    });
    services.projects.onApplied((applied) => this.#tellChange(applied));
    services.writes.onWrite((write) => this.#tellBench({ kind: 'write', write }));
    services.checks.proofs.onProof((proof) => this.#tellBench({ kind: 'proof', proof }));
  }

  /** @param peer who asks from another machine, null for this one */
  accept(request: IncomingMessage, socket: Duplex, head: Buffer, peer: Peer | null): void {
    const isGlass = peer !== null || /[?&]glass=1(&|$)/.test(request.url ?? '');
    this.#sockets.handleUpgrade(request, socket, head, (ws) => this.#join(ws, peer, isGlass));
  }

  /** Closes what a peer has open, or what all have: its rights have changed. */
  dropPeer(peerId: string | null): void {
    for (const client of this.#clients) if (client.peer && (peerId === null || client.peer.id === peerId)) client.socket.terminate();
  }

  /** Asks every open page what it has drawn for a tag; waits a moment for the answers. */
  async askPages(tagId: string): Promise<readonly DrawnText[]> {
    const answers = [...this.#clients].filter((c) => c.tags.has(tagId)).map((client) => this.#ask(client, tagId));
    return (await Promise.all(answers)).flat();
  }

  /** What waits in the sockets of all pages together. */
  get waitingBytes(): number {
    return [...this.#clients].reduce((sum, { socket }) => sum + socket.bufferedAmount, 0);
  }

  close(): void {
    this.#rest();
    for (const client of this.#clients) client.socket.terminate();
    this.#sockets.close();
  }

  /** Nothing is gathered while nobody looks. */
  #rest(): void {
    if (this.#timer) clearInterval(this.#timer);
    this.#timer = null;
  }

  #ask(client: Client, tagId: string): Promise<readonly DrawnText[]> {
    const request = this.#nextAsk++;
    return new Promise((resolve) => {
      const finish = (items: readonly DrawnText[]): void => {
        clearTimeout(timer);
        this.#asks.delete(request);
        resolve(items);
      };
      const timer = setTimeout(() => finish([]), ASK_TIMEOUT_MS);
      this.#asks.set(request, { client, finish });
      this.#send(client, { kind: 'ask', request, tagId });
    });
  }

  #join(socket: WebSocket, peer: Peer | null, isGlass: boolean): void {
    const client: Client = {
      socket,
      peer,
      isGlass,
      tags: new Set(),
      unwant: () => undefined,
      dirty: new Set(),
      screen: null,
      token: null,
      alarmsOf: undefined,
      alarmsChanged: false,
      holds: new Set(),
      sent: 0,
      acknowledged: 0,
      lastSentAt: 0,
      statusText: '',
      missedChange: false,
      budget: BUDGET,
    };
    this.#clients.add(client);
    this.#timer ??= setInterval(() => this.#flush(), BATCH_MS);
    socket.on('close', () => {
      this.#clients.delete(client);
      if (this.#clients.size === 0) this.#rest();
      this.#leave(client);
      client.unwant();
      for (const hold of client.holds) void this.#services?.holds.release(hold, 'Released by the server: the panel has gone.');
    });
    socket.on('error', () => socket.terminate());
    socket.on('message', (data, isBinary) => {
      // Who sends more than any page does waits, and holds nobody else up.
      if (--client.budget === 0) socket.pause();
      const message = isBinary || !Buffer.isBuffer(data) ? null : parse(data.toString('utf8'));
      if (message) this.#take(client, message);
      else socket.close(1008, 'not a message of the live channel');
    });
    this.#sayHello(client);
  }

  #sayHello(client: Client): void {
    this.#send(client, { kind: 'hello', boot: this.#boot, revision: this.#services?.projects.revision ?? 0 });
  }

  #take(client: Client, message: ClientMessage): void {
    switch (message.kind) {
      case 'subscribe':
        client.tags = new Set(client.peer ? message.tags.filter((id) => this.#services?.panels.isShown(id)) : message.tags);
        for (const tagId of client.tags) client.dirty.add(tagId);
        this.#want(client);
        break;
      case 'ack':
        client.acknowledged = Math.min(client.sent, Math.max(client.acknowledged, message.batch));
        break;
      case 'hold':
        if (client.holds.has(message.hold)) this.#services?.holds.sign(message.hold);
        else void this.#hold(client, message);
        break;
      case 'release':
        void this.#release(client, message.hold);
        break;
      case 'screen':
        this.#shows(client, message);
        break;
      case 'session':
        this.#signed(client, message);
        break;
      case 'alarms':
        // Other machines see those of panels alone.
        client.alarmsOf = client.peer && message.panelId === null ? undefined : message.panelId;
        client.alarmsChanged = client.alarmsOf !== undefined;
        break;
      case 'drawn':
        this.#answered(client, message);
        break;
    }
  }

  #answered(client: Client, { request, items }: Extract<ClientMessage, { kind: 'drawn' }>): void {
    const asked = this.#asks.get(request);
    if (asked?.client === client) asked.finish(items);
  }

  /** Who is signed in there is asked of the session, never of the page. */
  #signed(client: Client, { panelId, token }: Extract<ClientMessage, { kind: 'session' }>): void {
    if (!this.#services) return;
    const { signIn, desks } = this.#services;
    const who = token === null ? null : signIn.who(token, panelId);
    const isAnother = client.token !== (who ? token : null);
    client.token = who ? token : null;
    if (isAnother || (token !== null && who === null)) this.#send(client, { kind: 'signed', who: who && { name: who.name, level: who.level } });
    if (isAnother && client.screen) desks.signed(client.screen.panelId);
  }

  /** A screen has drawn a page, or nobody sees it any more. */
  #shows(client: Client, { panelId, pageId, order, language }: Extract<ClientMessage, { kind: 'screen' }>): void {
    if (!this.#services) return;
    const { desks, model } = this.#services;
    if (client.screen !== null && (client.screen.panelId !== panelId || pageId === null)) this.#leave(client);
    if (pageId === null || model.get('page', pageId)?.panelId !== panelId) return;
    if (client.screen) return desks.drew(client.screen, pageId, order, language);
    const { peer } = client;
    client.screen = {
      panelId,
      mayLead: peer === null || peer.rights === 'write',
      level: () => this.#services?.signIn.levelOf(client.token, panelId) ?? 0,
      send: (message) => this.#send(client, message),
    };
    desks.enter(client.screen, pageId, language);
  }

  #tellAlarms(client: Client): void {
    client.alarmsChanged = false;
    if (!this.#services || client.alarmsOf === undefined) return;
    const { alarms, panelAlarms } = this.#services;
    this.#send(client, { kind: 'alarms', now: client.alarmsOf === null ? alarms.now() : panelAlarms.now(client.alarmsOf) });
  }

  /** What two subscriptions share is read on. */
  #want(client: Client): void {
    const before = client.unwant;
    client.unwant = this.#services?.engine.want(client.tags) ?? client.unwant;
    before();
  }

  #leave(client: Client): void {
    if (client.screen) this.#services?.desks.leave(client.screen);
    client.screen = null;
  }

  async #hold(client: Client, { hold, ...press }: Extract<ClientMessage, { kind: 'hold' }>): Promise<void> {
    if (!this.#services) return;
    const refuse = (sentence: string): void => this.#send(client, { kind: 'held', hold, phase: 'refused', sentence });
    if (client.peer && client.peer.rights !== 'write') return refuse('This phone or panel may only read.');
    const held = this.#services.panels.held(press);
    if (!held.ok) return refuse(`${held.problem.message} ${held.problem.remedy ?? ''}`.trim());
    client.holds.add(hold);
    const { tagId, by } = held.value;
    const taken = (fault: unknown): void => {
      if (!fault) this.#send(client, { kind: 'held', hold, phase: 'on', sentence: 'The controller took it.' });
    };
    const done = await this.#services.holds.begin(hold, tagId, taken, by);
    if (done.ok && done.value.state === 'done') return;
    const sentence = done.ok ? done.value.sentence : `${done.problem.message} ${done.problem.remedy ?? ''}`.trim();
    refuse(sentence);
    if (done.ok) void this.#services.holds.release(hold, 'Released: it did not come on as asked.');
  }

  async #release(client: Client, hold: string): Promise<void> {
    if (!this.#services || !client.holds.delete(hold)) return;
    const done = await this.#services.holds.release(hold);
    const isOff = done.ok ? done.value.state === 'done' : done.problem.code === 'gone';
    this.#send(client, { kind: 'held', hold, phase: isOff ? 'off' : 'unknown', sentence: done.ok ? done.value.sentence : done.problem.message });
  }

  #flush(): void {
    if (!this.#services) return;
    const { engine } = this.#services;
    const now = engine.clock.now();
    const textOf = (of: Status) => ({ status: of, text: JSON.stringify({ ...of, serverTime: 0 }) });
    const bench = textOf(this.#services.status());
    const panel = [...this.#clients].some(({ peer }) => peer) ? textOf(this.#services.panelStatus()) : bench;
    for (const client of this.#clients) {
      const { status, text: statusText } = client.peer ? panel : bench;
      if (client.budget <= 0) client.socket.resume();
      client.budget = BUDGET;
      if (client.sent - client.acknowledged >= UNACKNOWLEDGED || client.socket.readyState !== WebSocket.OPEN) continue;
      // It may acknowledge and never read.
      if (client.socket.bufferedAmount > WAITING_BYTES) continue;
      if (client.missedChange) {
        client.missedChange = false;
        this.#sayHello(client);
      }
      if (client.alarmsChanged) this.#tellAlarms(client);
      const changed = statusText !== client.statusText;
      if (client.dirty.size === 0 && !changed && now - client.lastSentAt < BEAT_MS) continue;
      const values = [...client.dirty].flatMap((id) => {
        const sample = engine.live.get(id);
        return sample ? [client.peer ? panelSample(liveSample(sample)) : liveSample(sample)] : [];
      });
      client.dirty.clear();
      client.statusText = statusText;
      client.lastSentAt = now;
      client.sent++;
      this.#send(client, { kind: 'batch', batch: client.sent, serverTime: now, values, status: changed ? status : null });
    }
  }

  /** Tells a change, after those before it; a large one in parts, each in a turn of its own. */
  #tellChange({ revision, label, changes }: Applied): void {
    this.#changes = this.#changes.then(async () => {
      const last = Math.max(0, Math.ceil(changes.length / PART) - 1) * PART;
      for (let from = 0; from < last && this.#clients.size > 0; from += PART) {
        await this.#haveRoom();
        this.#tellBench({ kind: 'part', revision, changes: changes.slice(from, from + PART) });
        await nextTurn();
      }
      this.#tellBench({ kind: 'change', revision, label, changes: changes.slice(last), parts: last / PART });
    });
  }

  /** Waits for pages that are slow to take a large change; those that do not get it load the project anew. */
  async #haveRoom(): Promise<void> {
    const isFull = ({ socket, missedChange }: Client): boolean =>
      !missedChange && socket.readyState === WebSocket.OPEN && socket.bufferedAmount > BACKLOG_BYTES / 2;
    for (let waited = 0; waited < ROOM_MS && [...this.#clients].some(isFull); waited += BATCH_MS)
      await new Promise((resolve) => setTimeout(resolve, BATCH_MS));
  }

  /** Of the pages of the bench. Glasses hear that there is something new, and ask for their panel again. */
  #tellBench(message: ServerMessage): void {
    if (this.#clients.size > 0) this.#sendAll(JSON.stringify(message), message.kind === 'change');
  }

  #sendAll(text: string, isChange: boolean): void {
    for (const client of this.#clients) {
      if (client.isGlass) client.missedChange ||= isChange;
      else if (client.socket.bufferedAmount > BACKLOG_BYTES) client.missedChange = true;
      else if (client.socket.readyState === WebSocket.OPEN) client.socket.send(text);
    }
  }

  #send(client: Client, message: ServerMessage): void {
    if (client.socket.readyState === WebSocket.OPEN) client.socket.send(JSON.stringify(message));
  }
}

function parse(text: string): ClientMessage | null {
  try {
    const message: unknown = JSON.parse(text);
    const kind = typeof message === 'object' && message !== null && 'kind' in message ? String(message.kind) : '';
    return Object.hasOwn(MESSAGE_SCHEMAS, kind) && MESSAGE_SCHEMAS[kind as ClientMessage['kind']].isValidSync(message)
      ? (message as ClientMessage)
      : null;
  } catch {
    return null;
  }
}
