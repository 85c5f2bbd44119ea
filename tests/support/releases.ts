/**
 * Presses a button on a running server and breaks something while it is held, in twelve ways. What is measured stands at the
 * machine: when the coil goes off, what else was written, and where.
 */
import { once } from 'node:events';
import { v7 as uuid } from 'uuid';
import { WebSocket } from 'ws';
import { HOLD_SIGN_MS } from '@/core/live/messages.ts';
import { newAction } from '@/core/panel/actions.ts';
import type { Change } from '@/core/project/command.ts';
import { FaultyServer, type Asked } from './faultyServer.ts';
import { freePort, newFolder, startServer, type RunningServer } from './server.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { newTag } from './newTag.ts';
import { until } from './until.ts';

/** What breaks: the page, the line to the machine, the project under the press, or the server. */
export type Breaks = 'page' | 'line' | 'project' | 'server';

export interface ReleaseFault {
  readonly name: string;
  readonly breaks: Breaks;
  /** Brings the fault about. @returns from when on the release could reach the machine, in ms of the test's clock */
  readonly happen: (bench: ReleaseBench) => Promise<number>;
}

export interface Release {
  /** From when the release could reach the machine to the frame that switches the coil off. */
  readonly ms: number;
  /** Frames that write anywhere else, or switch on again. */
  readonly astray: readonly string[];
}

const COIL = 4;
const COIL_BEFORE = 6;
const TIMEOUT_MS = 300;

/** What a machine was told, in order. */
interface Written {
  readonly unit: number;
  readonly coil: number;
  readonly on: boolean;
  readonly at: number;
}

class Machine {
  written: Written[] = [];
  /** Frames that are lost before they reach the machine. */
  losesOffs = 0;
  /** Answers of the machine to an off that are lost. */
  losesAnswers = 0;
  isSilent = false;

  private constructor(readonly line: FaultyServer) {
    line.onRequest = (asked) => this.#take(asked);
  }

  static async start(): Promise<Machine> {
    return new Machine(await FaultyServer.start());
  }

  #take(asked: Asked): void {
    if (this.isSilent) return;
    const fn = asked.pdu[0] ?? 0;
    const coil = asked.pdu.readUInt16BE(1);
    if (fn === 5) {
      const on = asked.pdu[3] === 0xff;
      if (!on && this.losesOffs > 0) return void this.losesOffs--;
      this.written.push({ unit: asked.unit, coil, on, at: performance.now() });
      if (!on && this.losesAnswers > 0) return void this.losesAnswers--;
      return asked.answer(asked.pdu);
    }
    if (fn === 3) return asked.answer([3, 2, 0, 7]);
    asked.answer([1, 1, this.written.findLast((w) => w.coil === coil && w.unit === asked.unit)?.on ? 1 : 0]);
  }
}

class Page {
  #signs: NodeJS.Timeout | undefined;
  private constructor(readonly socket: WebSocket) {}

  static async open(address: string): Promise<Page> {
    const socket = new WebSocket(`${address.replace('http', 'ws')}/api/v1/live`, { origin: address });
    socket.on('error', () => socket.terminate());
    await once(socket, 'open');
    return new Page(socket);
  }

  press(button: { readonly panelId: string; readonly elementId: string }): string {
    const hold = uuid();
    const sign = (): void => this.#say({ kind: 'hold', hold, ...button });
    sign();
    this.#signs = setInterval(sign, HOLD_SIGN_MS);
    return hold;
  }

  letGo(hold: string): void {
    this.freeze();
    this.#say({ kind: 'release', hold });
  }

  /** No sign any more; its connection stays. */
  freeze(): void {
    clearInterval(this.#signs);
  }

  close(): void {
    this.freeze();
    this.socket.terminate();
  }

  #say(message: object): void {
    if (this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }
}

export class ReleaseBench {
  hold = '';
  page: Page | null = null;
  readonly ids = { link: uuid(), device: uuid(), tag: uuid(), panel: uuid(), page: uuid(), button: uuid() };

  private constructor(
    readonly data: ReturnType<typeof newFolder>,
    public server: RunningServer,
    readonly machine: Machine,
    /** Another one, on which nothing may ever be written. */
    readonly other: Machine,
  ) {}

  static async open(): Promise<ReleaseBench> {
    const data = newFolder();
    const [server, machine, other] = await Promise.all([startServer(data.folder, await freePort()), Machine.start(), Machine.start()]);
    return new ReleaseBench(data, server, machine, other);
  }

  async close(): Promise<void> {
    this.page?.close();
    await this.server.stop();
    await Promise.all([this.machine.line.stop(), this.other.line.stop()]);
    this.data.remove();
  }

  /** One press under one fault. @throws Error when the coil does not go off at all */
  async measure(fault: ReleaseFault): Promise<Release> {
    const { machine, other } = this;
    await this.#setUp();
    this.page = await Page.open(this.server.address);
    this.hold = this.page.press({ panelId: this.ids.panel, elementId: this.ids.button });
    await until('the coil is on', () => machine.written.at(-1)?.on === true);
    // Held for a while, and not always for the same.
    await pause(100 + Math.random() * 200);
    const from = await fault.happen(this);
    await until(`the coil is off: ${fault.name}`, () => machine.written.at(-1)?.on === false, 15_000);
    // What would come astray, comes soon.
    await pause(2 * TIMEOUT_MS);
    this.page.close();
    const off = machine.written.find((w) => !w.on);
    const isHome = ({ unit, coil, on }: Written, at: number): boolean => unit === 1 && coil === COIL && on === (at === 0);
    const astray = [...machine.written.filter((w, at) => !isHome(w, at)), ...other.written];
    return { ms: (off?.at ?? Infinity) - from, astray: astray.map((w) => `unit ${w.unit} coil ${w.coil} ${w.on ? 'on' : 'off'}`) };
  }

  async change(label: string, changes: readonly Change[]): Promise<void> {
    await this.post('/commands', { id: uuid(), label, changes });
  }

  async post(path: string, body: object): Promise<unknown> {
    const headers = { 'content-type': 'application/json' };
    const answer = await fetch(`${this.server.address}/api/v1${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
    if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`);
    return answer.json();
  }

  async get(path: string): Promise<unknown> {
    return (await fetch(`${this.server.address}/api/v1${path}`)).json();
  }

  async startAgain(): Promise<void> {
    this.server = await startServer(this.data.folder, await freePort());
  }

  /** The project as each press begins it, on a server that runs; the tag is moved to its coil by a change that can be undone. */
  async #setUp(): Promise<void> {
    const { machine, other, ids } = this;
    if (this.server.process.exitCode !== null || this.server.process.signalCode !== null) await this.startAgain();
    const settings = { host: '127.0.0.1', port: machine.line.port };
    const device = {
      linkId: ids.link,
      name: 'KILN',
      settings: { unit: 1 },
      dialect: { timeoutMs: TIMEOUT_MS, readRetries: 0 },
      witnessUrl: '',
    };
    const tag = { ...newTag(ids.device, 'jog', `CO${COIL_BEFORE}`, { periodMs: 200 }), type: 'BOOL' };
    const button = {
      pageId: ids.page,
      kind: 'button',
      tagId: ids.tag,
      label: 'Jog',
      x: 0,
      y: 0,
      w: 100,
      h: 60,
      settings: { actions: [newAction('hold')] },
    };
    await this.change('set up', [
      { kind: 'link', id: ids.link, set: { name: 'Line', driver: 'modbus-tcp', settings } },
      { kind: 'device', id: ids.device, set: device },
      { kind: 'tag', id: ids.tag, set: tag },
      { kind: 'panel', id: ids.panel, set: { name: 'Panel' } },
      { kind: 'page', id: ids.page, set: { panelId: ids.panel, name: 'Page', position: 0 } },
      { kind: 'element', id: ids.button, set: button },
    ]);
    await this.change('moved', [{ kind: 'tag', id: ids.tag, set: { source: newPoint(ids.device, `CO${COIL}`, { periodMs: 200 }) } }]);
    machine.written = [];
    other.written = [];
    await until('the coil is read', async () => {
      const { values } = (await this.get('/values')) as { values: readonly { quality: string }[] };
      return values[0]?.quality === 'good';
    });
    await this.post('/guard/unlock', { deviceId: ids.device, who: 'R. Vale', minutes: 5 });
  }
}

const now = (): number => performance.now();
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
/** The time before the change is asked for, then the change. */
async function changed(bench: ReleaseBench, change: Change): Promise<number> {
  const from = now();
  await bench.change('changed', [change]);
  return from;
}
/** The button is let go while the line is bad, which is mended after a time. */
async function letGo({ page, hold }: ReleaseBench, mend?: () => void, afterMs = 0): Promise<number> {
  const from = now();
  page?.letGo(hold);
  if (!mend) return from;
  await pause(afterMs);
  mend();
  return now();
}

export const RELEASE_FAULTS: readonly ReleaseFault[] = [
  {
    name: 'the page is gone',
    breaks: 'page',
    async happen({ page }) {
      page?.close();
      return now();
    },
  },
  {
    name: 'the page is frozen, its connection stays',
    breaks: 'page',
    async happen({ page }) {
      page?.freeze();
      return now();
    },
  },
  {
    name: 'the frame that switches off is lost',
    breaks: 'line',
    async happen(bench) {
      bench.machine.losesOffs = 1;
      return letGo(bench);
    },
  },
  {
    name: 'the answer to it is lost',
    breaks: 'line',
    async happen(bench) {
      bench.machine.losesAnswers = 1;
      return letGo(bench);
    },
  },
  {
    name: 'the connection is cut',
    breaks: 'line',
    async happen(bench) {
      bench.machine.line.cutAll();
      return letGo(bench);
    },
  },
  {
    name: 'the machine is silent for a second and a half',
    breaks: 'line',
    async happen(bench) {
      bench.machine.isSilent = true;
      return letGo(bench, () => (bench.machine.isSilent = false), 1500);
    },
  },
  {
    name: 'the tag is removed',
    breaks: 'project',
    happen: (bench) => changed(bench, { kind: 'tag', id: bench.ids.tag, set: null }),
  },
  {
    name: 'the device gets another unit',
    breaks: 'project',
    happen: (bench) => changed(bench, { kind: 'device', id: bench.ids.device, set: { settings: { unit: 2 } } }),
  },
  {
    name: 'the link is led to another machine',
    breaks: 'project',
    happen: (bench) => changed(bench, { kind: 'link', id: bench.ids.link, set: { settings: { host: '127.0.0.1', port: bench.other.line.port } } }),
  },
  {
    name: 'the change that it stands on is undone',
    breaks: 'project',
    async happen(bench) {
      const from = now();
      await bench.post('/undo', {});
      return from;
    },
  },
  {
    name: 'the server is told to end',
    breaks: 'server',
    async happen({ server }) {
      const from = now();
      await server.stop();
      return from;
    },
  },
  {
    name: 'the server is killed: told at its start, and switched off when asked',
    breaks: 'server',
    async happen(bench) {
      await bench.server.stop('SIGKILL');
      bench.page?.close();
      await bench.startAgain();
      const { notReleased } = (await bench.get('/status')) as { notReleased: readonly { holdId: string }[] };
      const [told] = notReleased;
      if (!told) throw new Error('nobody is told that the coil was held on');
      const from = now();
      await bench.post(`/holds/${told.holdId}/release`, {});
      return from;
    },
  },
];

/**
 * How late a release may come: half a second after the last sign of a page, and before a change or the end of the server; where a
 * frame was lost, after its time-out, the reading back and the pause before it is sent again; where the server died, after it was asked.
 */
export const RELEASE_BOUNDS_MS: Readonly<Record<Breaks, number>> = { page: 500, project: 500, server: 500, line: 3000 };
