/** The thread of one draft: reading a hundred thousand rows must not hold up the engine's loop. */
import { randomUUID } from 'node:crypto';
import { ENTITY_SCHEMAS, type Source } from '@/core/project/entities.ts';
import { isPlainTag } from '@/core/project/kinds/plainTag.ts';
import { addManifests } from '@/drivers/descriptions.ts';
import { LinePacker, pack } from '@/store/packed.ts';
import type { DraftDecisions, Outcome } from '@/core/taglist/draft.ts';
import { keyOf } from '@/core/taglist/merge.ts';
import { newTag, startOfIds, type NewTags } from '@/core/taglist/newTags.ts';
import { structuredIn } from '@/core/taglist/structured.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import { packLinesOf, unpackRows } from '@/store/packs.ts';
import { DraftWork } from './draftWork.ts';
import type { NewLines, PackedOutcome, ThreadAsk, ThreadOutcome } from './draftMessages.ts';
import { answerRequests } from '../threads/answering.ts';
import type { Progress } from '../threads/messages.ts';

/** Outcomes that go over in one message: thousands at once would hold up the engine's loop. */
const PORTION = 250;
/** Lines of a hundred that go over in one message. */
const LINES = 6;
let work: DraftWork | null = null;
let outcomes: readonly Outcome[] = [];
/** New tags, and what they have in common. */
let made: ListTag[] = [];
let started: NewTags = { ids: '', deviceId: '', sourceId: '' };
/** New tags and scales, packed as they go over. */
let lines: Iterator<string, undefined> = [].values();
let packer = new LinePacker();
/** What is made for a taking, one thing after the other. */
let making: Promise<unknown> = Promise.resolve();
let version: readonly ListTag[] = [];

async function answer(request: ThreadAsk, progress: Progress): Promise<unknown> {
  switch (request.kind) {
    case 'open':
      addManifests(request.drivers);
      work = new DraftWork(request.bytes, request.device, request.before === null ? [] : await unpackRows(request.before));
      return null;
    case 'others':
      work?.knowOthers(request.places);
      return null;
    case 'countingProbes':
      return work?.countingProbes() ?? [];
    case 'read':
      return work?.read(request.choices, progress);
    case 'compare':
      return work?.compare(await unpackRows(request.after));
    case 'tree':
      return work?.tree(request.node);
    case 'rows':
      return work?.rows(request.part, request.from, request.count);
    case 'outcome':
      // After whatever was asked of the decisions before.
      return (making = making.catch(() => undefined).then(() => decide(request.decisions, request.source, new Set(request.kept))));
    case 'groups': {
      const common: NewTags = { ...started, groups: Object.fromEntries(request.ids) };
      lines = packLinesOf(checked(made, common), common);
      packer = new LinePacker();
      return null;
    }
    case 'outcomes':
      return outcomes.slice(request.from, request.from + PORTION);
    case 'lines':
      // One after the other: their order is what ids are counted by.
      return (making = making.then(nextLines));
    case 'packed': {
      const [packed, packedVersion] = await Promise.all([packer.end(), request.withVersion ? pack(version) : null]);
      return { entities: packed, version: packedVersion } satisfies PackedOutcome;
    }
  }
}

function decide(decisions: DraftDecisions, source: Pick<Source, 'id' | 'deviceId'>, kept: ReadonlySet<string>): ThreadOutcome {
  const decided = work?.outcome(decisions) ?? { outcomes: [], version: [] };
  const rest: Outcome[] = [];
  made = [];
  for (const outcome of decided.outcomes)
    if (outcome.kind === 'new' && !kept.has(keyOf(outcome.tag))) made.push(outcome.tag);
    else rest.push(outcome);
  started = { ids: startOfIds(randomUUID()), deviceId: source.deviceId, sourceId: source.id };
  [outcomes, version] = [rest, decided.version];
  const groups = new Set<string>();
  for (const { group } of made) groups.add(group);
  for (const outcome of rest) if (outcome.kind !== 'gone') groups.add((outcome.kind === 'update' ? outcome.after : outcome.tag).group);
  return {
    count: rest.length,
    newCount: made.length,
    versionCount: version.length,
    groups: [...groups],
    structured: structuredIn(version),
    isAllNew: rest.length === 0 && made.length === version.length,
  };
}

/** New tags as they go by. @throws ValidationError when a row that was understood makes no tag, which would be a bug */
function* checked(rows: readonly ListTag[], common: NewTags): Generator<ListTag> {
  for (const [at, row] of rows.entries()) {
    const tag = newTag(row, at, common);
    if (!isPlainTag(tag)) ENTITY_SCHEMAS.tag.validateSync(tag, { strict: true });
    if (row.scale) ENTITY_SCHEMAS.scale.validateSync({ id: tag.id, scale: row.scale, sharedId: null }, { strict: true });
    yield row;
  }
}

/** As text: taking objects over takes the engine's loop longer than reading them there. */
async function nextLines(): Promise<NewLines> {
  const taken: string[] = [];
  while (taken.length < LINES) {
    const next = lines.next();
    if (next.done) return { lines: taken, isLast: true };
    taken.push(next.value);
    await packer.write(next.value);
  }
  return { lines: taken, isLast: false };
}

answerRequests(answer);
