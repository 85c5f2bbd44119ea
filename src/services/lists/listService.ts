/**
 * Imports tag lists. A file becomes a draft, read in a thread of its own; a draft is looked at, corrected and decided on,
 * and then taken as one command, all or nothing, or discarded with nothing changed.
 */
import type { CountingSign } from '@/core/taglist/countingSigns.ts';
import type { OtherPlace } from './draftWork.ts';
import type { CountingProbe } from './liveCounting.ts';
import { v7 as uuid } from 'uuid';
import type { Device, Link, Source } from '@/core/project/entities.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import { nextTurn } from '@/core/inSlices.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { groupText } from '@/core/project/tagPath.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type {
  DraftChoices,
  DraftDecisions,
  DraftPart,
  DraftRow,
  DraftRows,
  DraftStatus,
  DraftSummary,
  ListVersion,
  MergeCounts,
  TagUses,
} from '@/core/taglist/draft.ts';
import type { TreeNode } from '@/core/taglist/tree.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import { writeList } from '@/core/taglist/writeList.ts';
import { addedManifests } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ListStore } from '@/store/listStore.ts';
import type { ProjectService } from '../projectService.ts';
import { tagsOfSource, usesOf } from './applyOutcomes.ts';
import type { DeviceLists } from './deviceLists.ts';
import { startDraftThread, type DraftThread } from './draftThreadClient.ts';
import { ImportCommitter, type OpenDraft } from './importCommitter.ts';
import { setHere } from './setHere.ts';

export interface NewDraft {
  readonly deviceId: string;
  readonly fileName: string;
  /** The source it is a new version of; null for the one of the same file name, or else a new one. */
  readonly sourceId: string | null;
}

export interface ListCommit {
  readonly commandId: string;
  readonly sourceId: string;
  readonly deviceId: string;
  readonly fileName: string;
  readonly text: string;
}

export const DECIDE_NOTHING: DraftDecisions = { renames: [], bytes: [], leaveOutBad: false };

/** Of two versions that are compared no file was read. */

const NO_SUMMARY: Omit<DraftSummary, 'merge'> = {
  format: 'delimited',
  sheets: [],
  sheet: '',
  programVersion: '',
  unplaced: 0,
  layout: 'none',
  structures: [],
  encoding: 'utf-8',
  encodingConfidence: 1,
  accented: [],
  delimiter: ',',
  decimalComma: false,
  headerAt: -1,
  columns: [],
  typeWords: [],
  plainNumbers: 0,
  areas: [],
  counting: null,
  problems: [],
  rows: 0,
  good: 0,
  bad: 0,
  leftOut: 0,
};

/** Drafts that are open at once: each has a thread and its list in memory. */
const MAX_DRAFTS = 6;
/** After a draft there is better to do at once than to get ready for the next. */
const REWARM_MS = 2000;
/** Tags that go to a thread in one message. */
const PLACES = 2000;

interface Draft extends OpenDraft {
  /** Settles when the last reading has. */
  reading: Promise<void>;
  readonly asksDevice: boolean;
  /** What the device said of these addresses the last time it was asked. */
  asked?: { readonly about: string; readonly said: Promise<CountingSign | null> };
}

export class ListService {
  readonly #model: ProjectModel;
  readonly #taker: ImportCommitter;
  readonly #store: ListStore;
  readonly #isProven: (tagId: string) => boolean;
  readonly #threadFile: string;
  readonly #devices: DeviceLists;
  readonly #drafts = new Map<string, Draft>();
  /** A thread that is ready before a list comes: starting one takes a quarter of a second. */
  #spare: DraftThread | null = null;
  #warming: NodeJS.Timeout | undefined;
  #isClosed = false;

  /** @param threadFile the built thread of a draft */
  constructor(
    model: ProjectModel,
    projects: ProjectService,
    store: ListStore,
    isProven: (tagId: string) => boolean,
    threadFile: string,
    devices: DeviceLists,
  ) {
    this.#devices = devices;
    this.#model = model;
    this.#taker = new ImportCommitter(model, projects, store, isProven);
    this.#store = store;
    this.#isProven = isProven;
    this.#threadFile = threadFile;
  }

  /**
   * Begins to read a file. What is wrong with it is told by its status.
   * @param bytes handed over: the caller has them no more
   * @param asksDevice whether some of its values are compared with those of the device
   */
  async open({ deviceId, fileName, sourceId }: NewDraft, bytes: Uint8Array, asksDevice = true): Promise<Result<DraftStatus>> {
    const found = this.#device(deviceId);
    if (!found.ok) return found;
    const { device, link } = found.value;
    const sources = this.#model.all('source').filter((s) => s.deviceId === deviceId);
    const known = sourceId === null ? sources.find((s) => s.fileName === fileName) : sources.find((s) => s.id === sourceId);
    const source: Source = known ?? { id: sourceId ?? uuid(), deviceId, fileName, importedAt: '', rowCount: 0, versionId: null, choices: {} };
    const before = source.versionId === null ? null : await this.#store.packed(source.versionId);
    const draft = this.#newDraft(source, { fileName, isNewSource: !known }, asksDevice);
    const { thread } = draft;
    void this.#devices.programVersion(deviceId).then((deviceVersion) => (draft.status = { ...draft.status, deviceVersion }));
    draft.reading = this.#follow(draft, async () => {
      // Handed over, not copied: it may be hundreds of megabytes.
      const own = bytes.byteLength === bytes.buffer.byteLength ? (bytes as Uint8Array<ArrayBuffer>) : new Uint8Array(bytes);
      await thread.ask({ kind: 'open', bytes: own, device: { driver: link.driver, dialect: device.dialect }, before, drivers: addedManifests() }, [
        own.buffer,
      ]);
      const told: Promise<unknown>[] = [];
      let places: OtherPlace[] = [];
      for (const tag of this.#model.tagsOf(deviceId)) {
        if (tag.listId === source.id) continue;
        const group = groupText(tag.groupId, { group: (id) => this.#model.get('group', id) });
        places.push({ name: tag.name, group, address: addressOf(tag), type: tag.type });
        if (places.length < PLACES) continue;
        told.push(thread.ask({ kind: 'others', places }));
        places = [];
        await nextTurn();
      }
      await Promise.all([...told, thread.ask({ kind: 'others', places }), this.#read(draft)]);
    });
    return ok(draft.status);
  }

  /** Asks a device for the tags that it lists itself, and begins to read them like any other list. */
  async openFromDevice(deviceId: string): Promise<Result<DraftStatus>> {
    const found = this.#device(deviceId);
    if (!found.ok) return found;
    const list = await this.#devices.list(deviceId);
    return list.ok ? this.open({ deviceId, fileName: `as ${found.value.device.name} lists itself`, sourceId: null }, list.value) : list;
  }

  /** Two versions that were imported, side by side: a draft that can only be looked at. */
  async compare(sourceId: string, fromId: string, toId: string): Promise<Result<DraftStatus>> {
    const source = this.#model.get('source', sourceId);
    const versions = source ? await this.versions(sourceId) : [];
    const [from, to] = [fromId, toId].map((id) => versions.find((v) => v.id === id));
    const [before, after] = [await this.#store.packed(fromId), await this.#store.packed(toId)];
    if (!source || !from || !to || before === null || after === null)
      return fail('gone', 'A version of the list is not there (any more).', 'Reload, and choose again.');
    const found = this.#device(source.deviceId);
    if (!found.ok) return found;
    const { device, link } = found.value;
    const draft = this.#newDraft(source, { fileName: to.fileName, isNewSource: false });
    draft.status = { ...draft.status, compared: { from, to }, doing: 'Comparing' };
    draft.reading = this.#follow(draft, async () => {
      const empty = new Uint8Array();
      await draft.thread.ask({
        kind: 'open',
        bytes: empty,
        device: { driver: link.driver, dialect: device.dialect },
        before,
        drivers: addedManifests(),
      });
      const merge = await draft.thread.ask<MergeCounts>({ kind: 'compare', after });
      draft.status = { ...draft.status, phase: 'ready', summary: { ...NO_SUMMARY, programVersion: to.programVersion, merge } };
    });
    return ok(draft.status);
  }

  #newDraft(source: Source, { fileName, isNewSource }: Pick<DraftStatus, 'fileName' | 'isNewSource'>, asksDevice = false): Draft {
    // The oldest makes room: a page that was left open must not keep others out.
    if (this.#drafts.size >= MAX_DRAFTS) this.discard([...this.#drafts.keys()][0] ?? '');
    const id = uuid();
    const thread = this.#spare ?? startDraftThread(this.#threadFile);
    this.#spare = null;
    thread.onProgress = (doing, part) => {
      const own = this.#drafts.get(id);
      if (own) own.status = { ...own.status, doing, part };
    };
    const draft: Draft = {
      status: {
        id,
        fileName,
        deviceId: source.deviceId,
        sourceId: source.id,
        isNewSource,
        compared: null,
        deviceVersion: '',
        phase: 'reading',
        doing: 'Reading the file',
        part: 0,
        summary: null,
        problem: null,
      },
      source,
      thread,
      choices: source.choices,
      comparedWith: source.versionId,
      reading: Promise.resolve(),
      asksDevice,
    };
    this.#drafts.set(id, draft);
    return draft;
  }

  /** What is right under a node of the tree of a draft's rows; 0 is the root. */
  async tree(id: string, node: number): Promise<Result<readonly TreeNode[]>> {
    const draft = this.#drafts.get(id);
    if (!draft) return gone();
    if (draft.status.phase !== 'ready') return busy();
    return ok(await draft.thread.ask<readonly TreeNode[]>({ kind: 'tree', node }));
  }

  status(id: string): Result<DraftStatus> {
    const draft = this.#drafts.get(id);
    return draft ? ok(draft.status) : gone();
  }

  /** Reads the file again with other choices. */
  async reread(id: string, choices: DraftChoices): Promise<Result<DraftStatus>> {
    const draft = this.#drafts.get(id);
    if (!draft) return gone();
    if (draft.status.compared) return onlyLookedAt();
    if (draft.status.phase === 'reading' || draft.status.phase === 'storing') return busy();
    draft.choices = choices;
    draft.status = { ...draft.status, phase: 'reading', doing: 'Reading the file', part: 0, problem: null };
    draft.reading = this.#follow(draft, () => this.#read(draft));
    return ok(draft.status);
  }

  async rows(id: string, part: DraftPart, from: number, count: number): Promise<Result<DraftRows>> {
    const draft = this.#drafts.get(id);
    if (!draft) return gone();
    if (draft.status.phase === 'reading') return busy();
    const page = await draft.thread.ask<DraftRows>({ kind: 'rows', part, from, count });
    if (draft.status.isNewSource) return ok(page);
    const known = tagsOfSource(this.#model, draft.source);
    const uses = (tag: ListTag): { readonly uses?: TagUses } => {
      const own = known.get(nameKey(tag.listName));
      return own ? { uses: usesOf(this.#model, this.#isProven, own) } : {};
    };
    const rows = page.rows.map((row): DraftRow => {
      if (row.kind === 'changed') return { ...row, ...uses(row.change.before) };
      if (row.kind === 'gone') return { ...row, ...uses(row.tag) };
      return row.kind === 'proposal' ? { ...row, ...uses(row.proposal.from) } : row;
    });
    return ok({ ...page, rows });
  }

  /** Takes the draft as one command. Nothing is stored when something stands against it. */
  async take(id: string, commandId: string, decisions: DraftDecisions, origin = 'engineer'): Promise<Result<Applied>> {
    const draft = this.#drafts.get(id);
    if (!draft) return gone();
    if (draft.status.compared) return onlyLookedAt();
    const { phase, summary } = draft.status;
    if (phase !== 'ready' || !summary) return busy();
    const against = await this.#against(draft, summary, decisions);
    if (against) return { ok: false, problem: against };
    draft.status = { ...draft.status, phase: 'storing', doing: 'Storing', part: 0 };
    const done = await this.#taker.take(draft, commandId, decisions, origin).catch((error: unknown) => {
      draft.status = { ...draft.status, phase: 'ready' };
      throw error;
    });
    if (done.ok) this.discard(id);
    else draft.status = { ...draft.status, phase: 'ready' };
    return done;
  }

  /** Ends a draft at any moment, in the middle of reading too; nothing was changed by it. */
  discard(id: string): Result<null> {
    const draft = this.#drafts.get(id);
    if (!draft) return gone();
    this.#drafts.delete(id);
    draft.thread.end();
    // Who brought one list in brings another.
    clearTimeout(this.#warming);
    if (!this.#isClosed) this.#warming = setTimeout(() => this.warm(), REWARM_MS).unref();
    return ok(null);
  }

  /** The tags of a device as a list in the columns that come in. */
  takeOut(deviceId: string): Result<{ readonly name: string; readonly csv: string }> {
    const found = this.#device(deviceId);
    if (!found.ok) return found;
    const csv = writeList(this.#model.tagsOf(deviceId), {
      scaleOf: (tagId) => this.#model.get('scale', tagId)?.scale ?? null,
      groupOf: ({ groupId }) => groupText(groupId, { group: (id) => this.#model.get('group', id) }),
    });
    return ok({ name: `${found.value.device.name} tags`, csv });
  }

  /** Tags that are something else by now than their list says. */
  setHere(): Promise<readonly string[]> {
    return setHere(this.#model, (versionId) => this.#store.packed(versionId));
  }

  versions(sourceId: string): Promise<readonly ListVersion[]> {
    return this.#store.versions(sourceId);
  }

  /** A whole list in one call, for scripts: every row is stored, or none. */
  async commit({ commandId, sourceId, deviceId, fileName, text }: ListCommit, origin = 'engineer'): Promise<Result<Applied>> {
    const opened = await this.open({ deviceId, fileName, sourceId }, new TextEncoder().encode(text), false);
    if (!opened.ok) return opened;
    const { id } = opened.value;
    await this.#drafts.get(id)?.reading;
    const { problem = null } = this.#drafts.get(id)?.status ?? {};
    const done: Result<Applied> = problem ? { ok: false, problem: refusedBy(problem) } : await this.take(id, commandId, DECIDE_NOTHING, origin);
    if (!done.ok) this.discard(id);
    return done;
  }

  /** Gets a thread ready for the next list. */
  warm(): void {
    this.#spare ??= startDraftThread(this.#threadFile);
  }

  close(): void {
    this.#isClosed = true;
    clearTimeout(this.#warming);
    this.#spare?.end();
    this.#spare = null;
    for (const id of [...this.#drafts.keys()]) this.discard(id);
  }

  async #read(draft: Draft): Promise<void> {
    const read = await draft.thread.ask<Result<DraftSummary>>({ kind: 'read', choices: draft.choices });
    if (!read.ok) {
      draft.status = { ...draft.status, phase: 'failed', summary: null, problem: read.problem };
      return;
    }
    const counting = (await this.#askDevice(draft)) ?? read.value.counting;
    draft.status = { ...draft.status, phase: 'ready', summary: { ...read.value, counting }, problem: null };
  }

  /** Values that are there say more than the numbers alone. Asked again only about other addresses. */
  async #askDevice(draft: Draft): Promise<CountingSign | null> {
    const found = this.#device(draft.source.deviceId);
    if (!draft.asksDevice || !found.ok) return null;
    const probes = await draft.thread.ask<readonly CountingProbe[]>({ kind: 'countingProbes' });
    if (probes.length === 0) return null;
    const about = JSON.stringify(probes);
    draft.status = { ...draft.status, doing: 'Comparing with the device', part: 1 };
    if (draft.asked?.about !== about) draft.asked = { about, said: this.#devices.countingSign(found.value, probes) };
    return draft.asked.said;
  }

  /** A thread that ends before its time was discarded, or its list was too much for it. */
  async #follow(draft: Draft, work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      draft.status = {
        ...draft.status,
        phase: 'failed',
        problem: {
          code: 'reading-failed',
          message: `${draft.status.fileName} could not be read to its end: ${error instanceof Error ? error.message : String(error)}`,
          remedy: 'Split the list, or leave out what is not needed.',
        },
      };
    }
  }

  async #against(draft: Draft, summary: DraftSummary, decisions: DraftDecisions): Promise<Problem | null> {
    const whole = summary.problems[0];
    if (whole) return refusedBy(whole);
    if (summary.bad > 0 && !decisions.leaveOutBad) {
      const { rows } = await draft.thread.ask<DraftRows>({ kind: 'rows', part: 'bad', from: 0, count: 1 });
      const [first] = rows;
      return refusedBy(
        (first?.kind === 'row' ? first.row.problems[0] : undefined) ?? { code: 'rows', message: `${summary.bad} rows are not understood.` },
      );
    }
    const now = this.#model.get('source', draft.source.id)?.versionId ?? null;
    if (now !== draft.comparedWith)
      return {
        code: 'changed-elsewhere',
        message: 'Another version of the list was imported, or taken back, since this one was read.',
        remedy: 'Choose the file again.',
      };
    return null;
  }

  #device(id: string): Result<{ readonly device: Device; readonly link: Link }> {
    const device = this.#model.get('device', id);
    const link = device && this.#model.get('link', device.linkId);
    return device && link ? ok({ device, link }) : fail('gone', 'The device is not there (any more).', 'Reload, and choose a device.', 'deviceId');
  }
}

function refusedBy(problem: Problem): Problem {
  return { ...problem, message: `The list was not taken: ${problem.message}` };
}
function gone(): Result<never> {
  return fail('gone', 'This list is not open (any more).', 'Choose the file again.');
}
function onlyLookedAt(): Result<never> {
  return fail('comparison', 'This compares two versions; nothing can be taken from it.', 'Choose the file to import it again.');
}
function busy(): Result<never> {
  return fail('changed-elsewhere', 'The list is being read or stored just now.', 'Wait until it is done.');
}
