/** The panel host: what runs, what is taken over, and what benches that are paired may ask of it. */
import { randomBytes } from 'node:crypto';
import { arch, platform } from 'node:os';
import {
  callIn,
  HOSTING_VERSION,
  type Answers,
  type CallName,
  type CallOf,
  type HostGreeting,
  type Hosted,
  type HostState,
} from '@/core/hosting/messages.ts';
import { PROJECT_VERSION } from '@/core/projectFile/projectFile.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { missingDrivers } from '@/drivers/registry.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { NetworkService } from '@/services/networkService.ts';
import { seal, unseal } from '@/services/hosting/sealing.ts';
import { freeBytes } from '@/store/freeBytes.ts';
import type { HostFiles } from './hostFiles.ts';
import type { HostFolder } from './hostFolder.ts';
import { Incoming } from './incoming.ts';
import { loadProject, type LoadedProject } from './loadProject.ts';
import { Pairing } from './pairing.ts';
import { run, type Running } from './running.ts';

/** Starts that a new project is given before the one before comes back. */
const TRIES = 2;
/** Room that must be left beside what comes. */
const ROOM_BYTES = 20_000_000;
const NONCE_MS = 60_000;
const MOST_NONCES = 200;
const LOG_AT_ONCE = 500;

export interface HostPlace {
  readonly folder: HostFolder;
  readonly files: HostFiles;
  readonly network: NetworkService;
  readonly clock: Clock;
  readonly program: string;
  /** A new project has shown that it runs after so long. */
  readonly steadyMs: number;
  readonly free?: (folder: string) => Promise<number>;
  /** Hears when another one runs, or none. */
  readonly onRunning: (running: Running | null) => void;
}

type Outcome<C extends CallName> = Promise<Result<Answers[C]>>;

export class PanelHost {
  readonly pairing: Pairing;
  readonly #place: HostPlace;
  readonly #incoming: Incoming;
  /** Numbers that were given out for one call each, and until when they count. */
  readonly #nonces = new Map<string, number>();
  #running: Running | null = null;
  #stopSettling: () => void = () => undefined;
  /** One after the other: two benches never take over at once. */
  #last: Promise<unknown> = Promise.resolve();
  #free = Infinity;

  constructor(place: HostPlace) {
    this.#place = place;
    this.pairing = new Pairing(place.clock);
    this.#incoming = new Incoming(place.clock);
  }

  get running(): Running | null {
    return this.#running;
  }

  /** Starts what was sent last; one that did not come up twice gives way to the one before. */
  async start(): Promise<void> {
    const { folder, clock } = this.#place;
    if (folder.current.tries !== null) {
      if (folder.current.tries >= TRIES) await this.#rollBack(`It was started ${TRIES} times, and did not run for ${this.#place.steadyMs / 1000} s.`);
      else await folder.tried();
    }
    for (let { now } = folder.current; now; now = folder.current.now) {
      const loaded = await this.#read(now);
      const why = loaded.ok ? await this.#begin(loaded.value, now) : loaded.problem.message;
      if (why === null) break;
      await this.#rollBack(why);
    }
    if (this.#running && folder.current.tries !== null) this.#stopSettling = clock.after(this.#place.steadyMs, () => void this.#settle());
    if (!this.#running) this.#place.onRunning(null);
  }

  greeting(): HostGreeting {
    const now = this.#place.clock.now();
    for (const [nonce, until] of this.#nonces) if (until < now || this.#nonces.size >= MOST_NONCES) this.#nonces.delete(nonce);
    const nonce = randomBytes(16).toString('base64url');
    this.#nonces.set(nonce, now + NONCE_MS);
    const { id, name } = this.#place.folder.identity;
    return { id, name, version: HOSTING_VERSION, isPairing: this.pairing.shown !== null, nonce };
  }

  async prove(pairing: string, proof: string): Promise<Result<{ readonly bench: string; readonly proof: string }>> {
    const proven = this.pairing.prove(pairing, proof);
    if (!proven.ok) return proven;
    await this.#place.folder.pair(proven.value.bench);
    this.#place.files.audit.record('paired', proven.value.bench.name, 'a bench');
    return ok({ bench: proven.value.bench.id, proof: proven.value.proof });
  }

  /** A sealed call, and its sealed answer. */
  async call(benchId: string, nonce: string, box: string): Promise<Result<string>> {
    const until = this.#nonces.get(nonce) ?? 0;
    this.#nonces.delete(nonce);
    if (until < this.#place.clock.now()) return fail('stale', 'The call came too late, or twice.', 'Try again.');
    const bench = this.#place.folder.identity.benches.find(({ id }) => id === benchId);
    const key = bench && Buffer.from(bench.key, 'base64');
    const message = key && callIn(unseal(key, 'host', nonce, box));
    // Neither says which of the two it is to somebody who is not paired.
    if (!bench || !key) return NOT_PAIRED;
    if (!message)
      return fail('not-paired', 'The panel host did not understand: it is not paired with this bench any more, or it is of another version.');
    const answer = await this.#answer(bench, message).catch((error: unknown) => failed(error));
    return ok(seal(key, 'bench', nonce, answer));
  }

  async state(): Promise<HostState> {
    const { folder, files, clock, program } = this.#place;
    const { id, name } = folder.identity;
    const { now, before, tries, rolledBack } = folder.current;
    this.#free = await (this.#place.free ?? freeBytes)(folder.path);
    return {
      id,
      name,
      program,
      projectVersion: PROJECT_VERSION,
      machine: `${platform()} ${arch()}, Node ${process.versions.node}`,
      missing: await missingDrivers(),
      now: clock.now(),
      freeBytes: this.#free,
      phase: this.#running === null ? 'empty' : tries !== null ? 'trying' : 'running',
      hosted: this.#running ? now : null,
      before,
      rolledBack,
      withPin: await files.pins.known(),
      unlocked: this.#running?.services.guard.all().map(({ deviceId, who, until }) => ({ deviceId, who, until })) ?? [],
      logSeq: files.records.lastSeq,
    };
  }

  async close(): Promise<void> {
    this.#stopSettling();
    await this.#last;
    await this.#running?.close();
    if (this.#running && this.#place.folder.current.tries !== null) await this.#place.folder.untried();
    this.#running = null;
  }

  async #answer(
    bench: { readonly id: string; readonly name: string },
    message: NonNullable<ReturnType<typeof callIn>>,
  ): Promise<Result<Answers[CallName]>> {
    switch (message.call) {
      case 'state':
        return ok(await this.state());
      case 'part': {
        const have = this.#incoming.take(bench.id, message.transfer, message.from, Buffer.from(message.bytes, 'base64'));
        return have.ok ? ok({ have: have.value }) : have;
      }
      case 'take':
        return this.#inTurn(() => this.#take(bench, message));
      case 'back':
        return this.#inTurn(() => this.#back(bench.name, message.replaces));
      case 'read':
        return this.#send(message.from);
      case 'log':
        return ok(await this.#place.files.records.after(message.after, LOG_AT_ONCE));
      case 'forget':
        await this.#place.folder.unpair(bench.id);
        return ok(null);
    }
  }

  async #take(
    bench: { readonly id: string; readonly name: string },
    { transfer, sha256, digest, panelId, replaces, pins, secrets }: CallOf<'take'>,
  ): Outcome<'take'> {
    const { folder, files, clock } = this.#place;
    const runs = this.#running ? folder.current.now : null;
    if ((runs?.digest ?? null) !== replaces)
      return fail(
        'changed-elsewhere',
        runs ? `“${runs.panelName}” was sent from ${runs.sentBy} meanwhile.` : 'What ran there does not run any more.',
        'Look at the difference again, and send if it is still what you want.',
      );
    const whole = this.#incoming.whole(bench.id, transfer, sha256);
    if (!whole.ok) return whole;
    const loaded = loadProject(whole.value, panelId);
    if (!loaded.ok) return loaded;
    if (loaded.value.about.digest !== digest) return fail('damaged', 'What came is not what was sent.', 'Send it again.');
    const missing = await missingDrivers();
    for (const link of loaded.value.model.all('link')) {
      const lacks = missing.find(({ driver }) => driver === link.driver);
      if (lacks)
        return fail('no-driver', `${link.name} cannot run on this machine: ${lacks.why}`, 'Use a link that this machine has, or another machine.');
    }
    const free = await (this.#place.free ?? freeBytes)(folder.path);
    if (free < whole.value.length + ROOM_BYTES)
      return fail(
        'disk-full',
        `The disk of the panel host has ${Math.round(free / 1_000_000)} MB left.`,
        'Make room on it. What runs there is as it was.',
      );
    const hosted: Hosted = { ...loaded.value.about, sentBy: bench.name, sentAt: isoTime(clock) };
    for (const { id, secret } of secrets) await files.secrets.keepAs(id, secret);
    for (const { operatorId, salt, hash } of pins) await files.pins.take(operatorId, { salt, hash });
    // What is started anew is on the disk already, and nothing else is stopped before that.
    if (runs?.digest !== hosted.digest) await folder.take(hosted, whole.value);
    files.audit.record('sent', bench.name, `${hosted.panelName} of ${hosted.projectName}`);
    return this.#exchange(loaded.value, hosted);
  }

  async #back(who: string, replaces: string): Outcome<'back'> {
    const { folder } = this.#place;
    const { now, before } = folder.current;
    if (now?.digest !== replaces) return fail('changed-elsewhere', 'Something else runs there by now.', 'Look again.');
    if (!before) return fail('gone', 'The panel host has none before this one.');
    const loaded = await this.#read(before);
    if (!loaded.ok) return loaded;
    await folder.swap();
    this.#place.files.audit.record('sent', who, `back to ${before.panelName} of ${before.sentAt}`);
    return this.#exchange(loaded.value, before);
  }

  /** One goes, another comes; should that not come up, the one before does. */
  async #exchange(loaded: LoadedProject, hosted: Hosted): Promise<Result<HostState>> {
    const { folder, clock } = this.#place;
    this.#stopSettling();
    if (folder.current.tries !== null) await folder.tried();
    await this.#stop();
    const why = await this.#begin(loaded, hosted);
    if (why !== null) {
      await this.#rollBack(why);
      const before = folder.current.now;
      const back = before && (await this.#read(before));
      if (before && back?.ok) await this.#begin(back.value, before);
      else this.#place.onRunning(null);
      return fail('not-up', `It did not come up: ${why}`, before ? 'What ran before runs again.' : 'The panel host is empty again.');
    }
    if (folder.current.tries !== null) this.#stopSettling = clock.after(this.#place.steadyMs, () => void this.#settle());
    return ok(await this.state());
  }

  async #read(hosted: Hosted): Promise<Result<LoadedProject>> {
    const zip = await this.#place.folder
      .projectFile(hosted.digest)
      .catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
    if (zip instanceof Error) return fail('gone', `Its file could not be read: ${zip.message}`);
    const loaded = loadProject(zip, hosted.panelId);
    if (loaded.ok && loaded.value.about.digest !== hosted.digest) return fail('damaged', 'Its file is not what was sent.');
    return loaded;
  }

  /** @returns why it did not come up; null when it did */
  async #begin(loaded: LoadedProject, hosted: Hosted): Promise<string | null> {
    const { folder, files, network, clock } = this.#place;
    try {
      const running = await run(loaded, hosted, { folder: folder.path, clock, files, network, troubles: () => this.#troubles() });
      // It is up when its panel can be drawn.
      const opened = running.services.panels.opening(hosted.panelId, null);
      if (!opened) {
        await running.close();
        return 'its panel cannot be opened.';
      }
      this.#running = running;
      this.#place.onRunning(running);
      return null;
    } catch (error) {
      console.error('The project did not come up:', error);
      return error instanceof Error ? error.message : String(error);
    }
  }

  async #stop(): Promise<void> {
    const running = this.#running;
    this.#running = null;
    await running?.close();
  }

  async #rollBack(why: string): Promise<void> {
    const { folder, files, clock } = this.#place;
    const gone = folder.current.now;
    await folder.rollBack(why, isoTime(clock));
    files.audit.record('rolled-back', '', `${gone?.panelName ?? ''}: ${why}`);
    console.error(`“${gone?.panelName ?? ''}” sent from ${gone?.sentBy ?? ''} was given up: ${why}`);
  }

  async #settle(): Promise<void> {
    await this.#inTurn(async () => {
      if (this.#place.folder.current.tries !== null) await this.#place.folder.settle();
    }).catch((error: unknown) => console.error('That the project runs could not be noted:', error));
  }

  async #send(from: number): Outcome<'read'> {
    const { now } = this.#place.folder.current;
    if (!now) return fail('gone', 'Nothing runs there.');
    const zip = await this.#place.folder.projectFile(now.digest);
    return ok({ bytes: Buffer.from(zip.subarray(from, from + READ_BYTES)).toString('base64'), size: zip.length, digest: now.digest });
  }

  #troubles() {
    return this.#free < ROOM_BYTES
      ? [
          {
            code: 'disk-full' as const,
            message: 'The disk of the panel host is full.',
            remedy: 'Make room on it. Reading goes on meanwhile.',
            at: null,
          },
        ]
      : [];
  }

  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.#last.then(work);
    this.#last = turn.catch(() => undefined);
    return turn;
  }
}

const READ_BYTES = 512_000;
const NOT_PAIRED = fail('not-paired', 'The panel host is not paired with this bench (any more).', 'Pair it again.');

function failed(error: unknown): Result<never> {
  const code = typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '';
  if (code === 'ENOSPC' || code === 'EDQUOT')
    return fail('disk-full', 'The disk of the panel host is full.', 'Make room on it. What runs there is as it was.');
  console.error(error);
  return fail(
    'internal',
    `Something went wrong inside the panel host: ${error instanceof Error ? error.message : String(error)}`,
    'Look at its log.',
  );
}
