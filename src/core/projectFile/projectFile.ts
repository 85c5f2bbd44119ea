/** A whole project as one zip of open formats: JSON with a documented schema, and a list of each device's tags. */
import { checkingJsonText } from '../jsonText.ts';
import { ValidationError } from 'yup';
import type { PathPart } from '../check/digest.ts';
import { HOWS, OUTCOMES, type FiledProof, type How, type Outcome, type ProofDetails, type Seal } from '../check/proof.ts';
import { ENTITY_DEFAULTS, ENTITY_KINDS, ENTITY_SCHEMAS, KINDS, pluralOf, type AnyEntity, type EntityKind, type Tag } from '../project/entities.ts';
import type { Change } from '../project/command.ts';
import { fromEarlierFile } from '../project/earlier.ts';
import { sameJson } from '../project/sameJson.ts';
import { groupText } from '../project/tagPath.ts';
import { deviceIdOf } from '../project/tagSource.ts';
import { listIn, type Snapshot } from '../project/snapshot.ts';
import { atOnce } from '../inSlices.ts';
import { fail, ok, type Result } from '../result.ts';
import type { Scale } from '../scaling/scale.ts';
import { listPortions } from '../taglist/writeList.ts';
import { jsonPortions } from '../jsonPortions.ts';
import { readPicture, type PictureType } from '../picture/picture.ts';
import { packing, unpackFiles, type ArchiveKind, type PortionedFile } from './archive.ts';

/** Of what is written; older ones are read. */
export const PROJECT_VERSION = 14;

const KIND: ArchiveKind = {
  format: 'mill-latch-project',
  version: PROJECT_VERSION,
  allowed: /^(project\.json|lists\/[^/\\:*?"<>|]{1,120}\.csv|pictures\/[0-9a-f]{64}\.(png|svg))$/,
  binary: /^pictures\//,
};

export interface ProjectFile {
  readonly name: string;
  readonly exportedAt: string;
  readonly entities: readonly { readonly kind: EntityKind; readonly entity: AnyEntity }[];
  readonly proofs: readonly FiledProof[];
  readonly pictures: readonly PictureData[];
}

/** The bytes of a picture, as they are kept. */
export interface PictureData {
  readonly digest: string;
  readonly type: PictureType;
  readonly bytes: Uint8Array;
}

/** What importing a file would do to one kind of thing. */
export interface Difference {
  readonly kind: EntityKind;
  readonly added: Some<string>;
  readonly removed: Some<string>;
  readonly changed: Some<{ readonly name: string; readonly fields: readonly string[] }>;
  readonly same: number;
}
/** How many there are, and the first of them. */
export interface Some<T> {
  readonly count: number;
  readonly first: readonly T[];
}
const FIRST = 20;

/** A project with the proofs of its tags, as it goes into a file. */
export type FiledProject = Omit<Snapshot, 'revision' | 'proofs' | 'drivers'> & { readonly proofs: readonly FiledProof[] };

/** Bytes of the file as they come. */
export function* writingProjectFile(project: FiledProject, exportedAt: string, pictures: readonly PictureData[] = []): Generator<Uint8Array, void> {
  const scales = new Map<string, Scale>();
  for (const { id, scale } of project.scales) scales.set(id, scale);
  const groups = new Map(project.groups.map((group) => [group.id, group]));
  const byDevice = new Map<string, Tag[]>();
  for (const tag of project.tags) {
    const deviceId = deviceIdOf(tag);
    if (deviceId === null) continue;
    const tags = byDevice.get(deviceId);
    if (tags) tags.push(tag);
    else byDevice.set(deviceId, [tag]);
  }
  const lists = project.devices.map((device, i): PortionedFile => [
    `lists/${i + 1} ${device.name.replace(/[/\\:*?"<>|]/g, '-').slice(0, 80)}.csv`,
    listPortions(byDevice.get(device.id) ?? [], {
      scaleOf: (tagId) => scales.get(tagId) ?? null,
      groupOf: ({ groupId }) => groupText(groupId, { group: (id) => groups.get(id) ?? null }),
    }),
  ]);
  const files = pictures.map(({ digest, type, bytes }): PortionedFile => [`pictures/${digest}.${type}`, [bytes]]);
  yield* packing([['project.json', jsonPortions({ exportedAt, ...project })], ...lists, ...files], KIND);
}

/** Reads a project file; every entity must obey its schema. The place of a problem names it. */
export function readProjectFile(zip: Uint8Array, now = Date.now()): Result<ProjectFile> {
  const unpacked = unpackFiles(zip, KIND);
  if (!unpacked.ok) return unpacked;
  const { texts, binaries } = unpacked.value;
  const checked = atOnce(checkingJsonText(texts['project.json'] ?? ''));
  if (!checked.ok) return { ok: false, problem: { ...checked.problem, place: 'project.json' } };
  let file: Readonly<Record<string, unknown>>;
  try {
    file = fromEarlierFile(JSON.parse(texts['project.json'] ?? '') as Record<string, unknown>);
  } catch {
    return fail('json', 'project.json is no valid JSON.', 'Export the project again.', 'project.json');
  }
  const entities: { kind: EntityKind; entity: AnyEntity }[] = [];
  for (const kind of ENTITY_KINDS) {
    const plural = pluralOf(kind);
    const isPlain = KINDS[kind].isPlain as ((entity: unknown) => boolean) | undefined;
    const found = kind === 'project' ? [file.project] : file[plural];
    if (!Array.isArray(found)) return fail('shape', `project.json has no ${plural}.`, undefined, plural);
    const ids = new Set<unknown>();
    for (const [i, raw] of found.entries()) {
      const entity: unknown = { ...ENTITY_DEFAULTS[kind], ...(typeof raw === 'object' ? raw : {}) };
      try {
        if (!isPlain?.(entity)) ENTITY_SCHEMAS[kind].validateSync(entity, { strict: true });
      } catch (error) {
        if (!(error instanceof ValidationError)) throw error;
        return fail('invalid', error.message, undefined, `${plural}[${i}].${error.path ?? ''}`);
      }
      const { id } = entity as AnyEntity;
      if (ids.has(id)) return fail('invalid', `Two ${plural} have one id.`, 'The file was edited: export the project again.', `${plural}[${i}].id`);
      ids.add(id);
      entities.push({ kind, entity: entity as AnyEntity });
    }
  }
  const pictures = picturesIn(binaries);
  if (!pictures.ok) return pictures;
  const project = entities.find((e) => e.kind === 'project')?.entity as { name: string } | undefined;
  return ok({
    name: project?.name ?? '',
    exportedAt: typeof file.exportedAt === 'string' ? file.exportedAt : '',
    entities,
    proofs: Array.isArray(file.proofs) ? file.proofs.filter((proof) => isProof(proof, now)).map(fromFile) : [],
    pictures: pictures.value,
  });
}

/** Each is what this program would have kept: another could do harm. */
function picturesIn(binaries: Readonly<Record<string, Uint8Array>>): Result<readonly PictureData[]> {
  const pictures: PictureData[] = [];
  for (const [name, bytes] of Object.entries(binaries)) {
    const read = readPicture(bytes);
    if (!read.ok) return { ok: false, problem: { ...read.problem, place: name } };
    const { digest, type } = read.value;
    if (name !== `pictures/${digest}.${type}`)
      return fail('damaged', 'A picture of the file is not what was exported.', 'Export the project again.', name);
    pictures.push({ digest, type, bytes: read.value.bytes });
  }
  return ok(pictures);
}

/** Compares a file with the project that is there, thing by thing, by their ids. */
export function compareProject(
  now: FiledProject,
  file: ProjectFile,
): { readonly differences: readonly Difference[]; readonly changes: readonly Change[] } {
  const changes: Change[] = [];
  const removals: Change[] = [];
  const differences: Difference[] = [];
  const nameOf = namesOf(file.entities);
  const byKind = new Map<EntityKind, AnyEntity[]>(ENTITY_KINDS.map((kind) => [kind, []]));
  for (const { kind, entity } of file.entities) byKind.get(kind)?.push(entity);
  for (const kind of ENTITY_KINDS) {
    const current = new Map((kind === 'project' ? [now.project] : (listIn(now, kind) as readonly AnyEntity[])).map((e) => [e.id, e]));
    const added: string[] = [];
    const changed: { name: string; fields: string[] }[] = [];
    let same = 0;
    for (const entity of byKind.get(kind) ?? []) {
      // The project itself stays; it takes the name of the one that comes.
      const before = kind === 'project' ? now.project : current.get(entity.id);
      const after = kind === 'project' ? { ...entity, id: now.project.id } : entity;
      current.delete(after.id);
      const { id, ...set } = after;
      const fields = Object.keys(set).filter(
        (f) => !sameJson((before as Record<string, unknown> | undefined)?.[f], (set as Record<string, unknown>)[f]),
      );
      if (!before) added.push(nameOf(kind, after));
      else if (fields.length > 0) changed.push({ name: nameOf(kind, after), fields });
      else same++;
      if (!before || fields.length > 0) changes.push({ kind, id, set });
    }
    for (const id of current.keys()) removals.push({ kind, id, set: null });
    differences.push({
      kind,
      added: some(added),
      changed: some(changed),
      same,
      removed: some([...current.values()].map((entity) => nameOf(kind, entity))),
    });
  }
  // What refers to something goes before it.
  return { differences, changes: [...changes, ...removals.reverse()] };
}

function some<T>(all: readonly T[]): Some<T> {
  return { count: all.length, first: all.slice(0, FIRST) };
}

/** What a thing is called; one without a name of its own by its tag. */
function namesOf(all: ProjectFile['entities']): (kind: EntityKind, entity: AnyEntity) => string {
  const tags = new Map<string, string>();
  for (const { kind, entity } of all) if (kind === 'tag' && 'name' in entity) tags.set(entity.id, entity.name);
  return (kind, entity) => {
    const title = KINDS[kind].title as ((of: AnyEntity) => string) | undefined;
    const own = title ? title(entity) : 'name' in entity ? entity.name : '';
    return own || (tags.get(('tagId' in entity ? entity.tagId : entity.id) ?? '') ?? entity.id);
  };
}

/** Files of earlier versions do not say where a proof was made: then it was somewhere else. */
function fromFile(proof: FiledProof): FiledProof {
  const { tagId, digest, witness, who, at, seen, seal } = proof;
  // Before there was more to say than that they agree.
  const { agrees } = proof as { readonly agrees?: boolean };
  const outcome: Outcome = agrees === undefined ? proof.outcome : agrees ? 'proven' : 'failed';
  const more = agrees === undefined ? detailsIn(proof.more) : null;
  const madeIn = typeof proof.madeIn === 'string' && /^[0-9a-f-]{36}$/i.test(proof.madeIn) ? proof.madeIn : 'unknown';
  return { tagId, digest, outcome, witness, who, at: new Date(at).toISOString(), seen, madeIn, more, seal: isSeal(seal) ? seal : null };
}

/** What is more to a proof, with nothing in it that was not asked for: it is part of what was signed. */
function detailsIn(value: unknown): ProofDetails | null {
  const details = typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : null;
  if (details === null || JSON.stringify(details).length > MOST_DETAILS) return null;
  const { how, path, open, note, runId } = details;
  const isText = (each: unknown): each is string => typeof each === 'string';
  const isPart = (each: unknown): boolean =>
    typeof each === 'object' && each !== null && isText((each as PathPart).what) && isText((each as PathPart).text);
  if (
    !isText(how) ||
    !Object.hasOwn(HOWS, how) ||
    !Array.isArray(path) ||
    !path.every(isPart) ||
    !Array.isArray(open) ||
    !open.every(isText) ||
    !isText(note)
  )
    return null;
  return { how: how as How, path: path as PathPart[], open, note, runId: isText(runId) ? runId : null };
}

function isSeal(value: unknown): value is Seal {
  const seal = typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  return typeof seal.after === 'string' && /^[0-9a-f]{64}$/.test(seal.after) && typeof seal.signature === 'string' && seal.signature.length <= 100;
}

const MOST_DETAILS = 20_000;
/** Nothing was seen in the future; a day is left for clocks that differ. */
const CLOCKS_DIFFER_MS = 86_400_000;

function isProof(value: unknown, now: number): value is FiledProof {
  if (typeof value !== 'object' || value === null) return false;
  const proof = value as Record<string, unknown>;
  return (
    ['tagId', 'digest', 'witness', 'who', 'at'].every((f) => typeof proof[f] === 'string' && proof[f].length <= 200) &&
    /^[0-9a-f]{64}$/.test(proof.digest as string) &&
    /^[0-9a-f-]{36}$/i.test(proof.tagId as string) &&
    Date.parse(proof.at as string) <= now + CLOCKS_DIFFER_MS &&
    (typeof proof.agrees === 'boolean' || (OUTCOMES as readonly unknown[]).includes(proof.outcome)) &&
    typeof proof.seen === 'object' &&
    proof.seen !== null &&
    JSON.stringify(proof.seen).length < 5000
  );
}
