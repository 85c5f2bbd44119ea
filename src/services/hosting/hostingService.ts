/** Panel hosts as the bench knows them: paired, compared with what is here, sent to, read back, and their log of writes fetched. */
import { hostname } from 'node:os';
import type { HostComparison, PairedHost, SendProgress } from '@/core/hosting/compared.ts';
import { PART_BYTES, type Answers, type CallName, type CallOf, type HostState } from '@/core/hosting/messages.ts';
import { listsOf } from '@/core/project/snapshot.ts';
import {
  compareProject,
  PROJECT_VERSION,
  readProjectFile,
  type Difference,
  type FiledProject,
  type ProjectFile,
} from '@/core/projectFile/projectFile.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { entitiesOf } from '@/mapping/hosting/panelProject.ts';
import { isoTime } from '@/runtime/clock.ts';
import { v4 as uuid } from 'uuid';
import type { PanelHostStore, StoredHost } from '@/store/panelHostStore.ts';
import type { RecordStore } from '@/store/recordStore.ts';
import type { SecretBox } from '@/store/secretBox.ts';
import type { RecordAudit } from '../auditTrail.ts';
import { callHost, hostAddress, pairWith, type HostAccess } from './hostLink.ts';
import { panelParcel, type PanelParcel, type ParcelSources } from './panelParcel.ts';

/** Lines of a log that are fetched at one time; the rest another time. */
const MOST_FETCHED = 20_000;

export interface HostingSources extends ParcelSources {
  readonly store: Pick<PanelHostStore, 'all' | 'keep' | 'sent' | 'named' | 'fetched' | 'remove'>;
  readonly secrets: Pick<SecretBox, 'reveal' | 'keep'>;
  readonly records: Pick<RecordStore, 'takeFetched'>;
  readonly clock: Clock;
  readonly audit: RecordAudit;
}

const NO_HOST = fail('gone', 'This bench is not paired with such a panel host (any more).', 'Look at the list again.');

export class HostingService {
  readonly #sources: HostingSources;
  /** One transfer, or fetching of a log, at a time for each host. */
  readonly #busy = new Set<string>();

  constructor(sources: HostingSources) {
    this.#sources = sources;
  }

  async list(): Promise<readonly PairedHost[]> {
    const all = await this.#sources.store.all();
    return all.map(({ id, name, address, pairedAt, panelId, sentAt }) => ({ id, name, address, pairedAt, panelId, sentAt }));
  }

  /** Pairs with the code that the host shows. Paired again, its key is another one from here on. */
  async pair(address: string, code: string): Promise<Result<PairedHost>> {
    const { store, secrets, clock, audit } = this.#sources;
    const at = hostAddress(address);
    if (at === null)
      return fail('invalid', 'An address is a name or four numbers, and a port after a colon where it is another one.', undefined, 'address');
    const paired = await pairWith(at, code.replace(/\s/g, ''), hostname().slice(0, 60) || 'bench');
    if (!paired.ok) return paired;
    const { id, name, benchId, key } = paired.value;
    const known = (await store.all()).find((host) => host.id === id);
    const keyId = await secrets.keep(key.toString('base64'));
    const pairedAt = isoTime(clock);
    await store.keep({ id, name, address: at, benchId, keyId, pairedAt, panelId: null, sentAt: null, logSeq: 0 });
    audit('paired', name, `panel host at ${at}`);
    return ok({ id, name, address: at, pairedAt, panelId: known?.panelId ?? null, sentAt: known?.sentAt ?? null });
  }

  /** Forgets it; told to it too, where it answers. What runs there runs on. */
  async remove(id: string): Promise<Result<null>> {
    const host = await this.#host(id);
    if (!host) return NO_HOST;
    await this.#call(host, 'forget', {});
    await this.#sources.store.remove(id);
    return ok(null);
  }

  async state(id: string): Promise<Result<HostState>> {
    const host = await this.#host(id);
    if (!host) return NO_HOST;
    const asked = await this.#call(host, 'state', {});
    if (asked.ok && asked.value.name !== host.name) await this.#sources.store.named(id, asked.value.name);
    return asked;
  }

  /** What sending the panel would do. */
  async compare(id: string, panelId: string): Promise<Result<HostComparison>> {
    const host = await this.#host(id);
    if (!host) return NO_HOST;
    const { clock } = this.#sources;
    const before = clock.now();
    const asked = await this.#call(host, 'state', {});
    if (!asked.ok) return asked;
    const state = asked.value;
    const clockAheadMs = Math.round(state.now - (before + clock.now()) / 2);
    const made = await panelParcel(panelId, isoTime(clock), this.#sources);
    if (!made.ok) {
      if (made.problem.code === 'gone') return made;
      const none = { digest: '', bytes: 0, pages: 0, tags: 0, links: 0, differences: null, unread: '', isSame: false, notes: [] };
      return ok({ state, clockAheadMs, ...none, refusal: made.problem });
    }
    const { project, zip, digest, notes } = made.value;
    const isSame = state.hosted?.digest === digest;
    const there = state.hosted && !isSame ? await this.#readBack(host) : null;
    const read = there?.ok ? readProjectFile(there.value) : there;
    return ok({
      state,
      clockAheadMs,
      digest,
      bytes: zip.length,
      pages: project.pages.length,
      tags: project.tags.length,
      links: project.links.length,
      differences: isSame ? [] : read?.ok ? differencesOf(read.value, project) : null,
      unread: read && !read.ok ? read.problem.message : '',
      isSame,
      refusal: refusalOf(state, project),
      notes,
    });
  }

  /** Sends the panel, and tells how far it is. @param replaces what the person saw running there; null for nothing */
  async *send(id: string, panelId: string, replaces: string | null, stop: AbortSignal): AsyncGenerator<SendProgress> {
    const host = await this.#host(id);
    const why = !host ? NO_HOST.problem : this.#busy.has(id) ? BUSY : null;
    if (why) yield { kind: 'failed', problem: why };
    if (!host || why) return;
    this.#busy.add(id);
    try {
      yield* this.#sending(host, panelId, replaces, stop);
    } finally {
      this.#busy.delete(id);
    }
  }

  async *#sending(host: StoredHost, panelId: string, replaces: string | null, stop: AbortSignal): AsyncGenerator<SendProgress> {
    const { clock, store, audit } = this.#sources;
    const made = await panelParcel(panelId, isoTime(clock), this.#sources);
    if (!made.ok) {
      yield { kind: 'failed', problem: made.problem };
      return;
    }
    const { zip } = made.value;
    const transfer = uuid();
    for (let from = 0; from < zip.length; from += PART_BYTES) {
      if (stop.aborted) return;
      yield { kind: 'sent', bytes: from, of: zip.length };
      const bytes = Buffer.from(zip.subarray(from, from + PART_BYTES)).toString('base64');
      const taken = await this.#call(host, 'part', { transfer, from, bytes });
      if (!taken.ok) {
        yield { kind: 'failed', problem: taken.problem };
        return;
      }
    }
    if (stop.aborted) return;
    yield { kind: 'taking' };
    const done = await this.#call(host, 'take', takeOf(made.value, { transfer, panelId, replaces }));
    if (!done.ok) {
      yield { kind: 'failed', problem: done.problem };
      return;
    }
    await store.sent(host.id, panelId, isoTime(clock));
    audit('sent', host.name, `${done.value.hosted?.panelName ?? ''}, ${made.value.project.tags.length} tags`);
    yield { kind: 'done', state: done.value };
  }

  /** What ran there before runs again. @param replaces what runs there now */
  async goBack(id: string, replaces: string): Promise<Result<HostState>> {
    const host = await this.#host(id);
    return host ? this.#call(host, 'back', { replaces }) : NO_HOST;
  }

  /** The project file of what runs there. */
  async readBack(id: string): Promise<Result<{ readonly name: string; readonly zip: Uint8Array<ArrayBuffer> }>> {
    const host = await this.#host(id);
    if (!host) return NO_HOST;
    const read = await this.#readBack(host);
    return read.ok ? ok({ name: host.name, zip: read.value }) : read;
  }

  /** Fetches what is new of its log of writes. @returns how many entries came */
  async fetchLog(id: string): Promise<Result<number>> {
    const host = await this.#host(id);
    if (!host) return NO_HOST;
    if (this.#busy.has(`log ${id}`)) return { ok: false, problem: BUSY };
    this.#busy.add(`log ${id}`);
    try {
      let { logSeq } = host;
      const seen = new Set<string>();
      while (seen.size < MOST_FETCHED) {
        const part = await this.#call(host, 'log', { after: logSeq });
        if (!part.ok) return part;
        for (const entry of part.value.entries) {
          await this.#sources.records.takeFetched({ ...entry, host: host.name });
          seen.add(entry.id);
        }
        if (part.value.seq === logSeq) break;
        logSeq = part.value.seq;
        await this.#sources.store.fetched(id, logSeq);
      }
      return ok(seen.size);
    } finally {
      this.#busy.delete(`log ${id}`);
    }
  }

  async #readBack(host: StoredHost): Promise<Result<Uint8Array<ArrayBuffer>>> {
    const parts: Buffer[] = [];
    let digest = '';
    for (let from = 0; ;) {
      const part = await this.#call(host, 'read', { from });
      if (!part.ok) return part;
      const bytes = Buffer.from(part.value.bytes, 'base64');
      if (digest !== '' && digest !== part.value.digest)
        return fail('changed-elsewhere', 'Something else was sent to the panel host meanwhile.', 'Look again.');
      ({ digest } = part.value);
      parts.push(bytes);
      from += bytes.length;
      if (from >= part.value.size || bytes.length === 0) return ok(new Uint8Array(Buffer.concat(parts)));
    }
  }

  async #host(id: string): Promise<StoredHost | null> {
    return (await this.#sources.store.all()).find((host) => host.id === id) ?? null;
  }

  async #call<C extends CallName>({ address, benchId, keyId }: StoredHost, call: C, told: CallOf<C>): Promise<Result<Answers[C]>> {
    const key = this.#sources.secrets.reveal(keyId);
    if (key === null) return fail('not-paired', 'The key of the pairing is not kept here (any more).', 'Pair it again.');
    const access: HostAccess = { address, benchId, key: Buffer.from(key, 'base64') };
    return callHost(access, call, told);
  }
}

const BUSY: Problem = {
  code: 'busy',
  message: 'Something is being sent to the panel host, or fetched from it, already.',
  remedy: 'Wait until it is done.',
};

function takeOf({ sha256, digest, pins, secrets }: PanelParcel, how: Pick<CallOf<'take'>, 'transfer' | 'panelId' | 'replaces'>): CallOf<'take'> {
  return { ...how, sha256, digest, pins, secrets };
}

/** Why the host could not run it. */
function refusalOf({ missing, projectVersion }: HostState, { links }: FiledProject): Problem | null {
  if (projectVersion < PROJECT_VERSION)
    return {
      code: 'version',
      message: `The panel host reads projects up to version ${projectVersion}; this bench writes ${PROJECT_VERSION}.`,
      remedy: 'Bring the program on the panel host to the version of the bench.',
    };
  for (const link of links) {
    const lacks = missing.find(({ driver }) => driver === link.driver);
    if (lacks) return { code: 'no-driver', message: `${link.name} cannot run there: ${lacks.why}`, remedy: 'Use a link that the machine has.' };
  }
  return null;
}

/** From what runs there to what is here. */
function differencesOf({ entities }: ProjectFile, here: FiledProject): readonly Difference[] {
  const of = (wanted: string) => entities.flatMap(({ kind, entity }) => (kind === wanted ? [entity] : []));
  const there = { project: of('project')[0], ...listsOf((kind) => of(kind) as never), proofs: [] } as unknown as FiledProject;
  const file: ProjectFile = {
    name: here.project.name,
    exportedAt: '',
    entities: entitiesOf(here),
    proofs: [],
    pictures: [],
  };
  return compareProject(there, file).differences.filter(({ added, changed, removed }) => added.count + changed.count + removed.count > 0);
}
