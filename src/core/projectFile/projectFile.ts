/** A whole project as one zip of open formats: JSON with a documented schema, and a list of each device's tags. */
import { ValidationError } from 'yup';
import type { Proof } from '../check/checkResult.ts';
import { ENTITY_DEFAULTS, ENTITY_KINDS, ENTITY_SCHEMAS, type AnyEntity, type Change, type EntityKind } from '../project/entities.ts';
import { sameJson } from '../project/sameJson.ts';
import type { Snapshot } from '../project/snapshot.ts';
import { fail, ok, type Result } from '../result.ts';
import { writeList } from '../taglist/writeList.ts';
import { packTexts, unpackTexts, type ArchiveKind } from './archive.ts';

const KIND: ArchiveKind = { format: 'mill-latch-project', version: 1, allowed: /^(project\.json|lists\/[^/\\:*?"<>|]{1,120}\.csv)$/ };

/** Where the entities of a kind stand in `project.json`. */
const PLACES = {
  project: 'project',
  link: 'links',
  device: 'devices',
  source: 'sources',
  tag: 'tags',
  scale: 'scales',
  panel: 'panels',
  page: 'pages',
  element: 'elements',
} as const satisfies Record<EntityKind, string>;

export interface ProjectFile {
  readonly name: string;
  readonly exportedAt: string;
  readonly entities: readonly { readonly kind: EntityKind; readonly entity: AnyEntity }[];
  readonly proofs: readonly FiledProof[];
}

/** A proof as a file has it; where it was made decides whether it is one here. */
export type FiledProof = Omit<Proof, 'isElsewhere'>;

/** What importing a file would do to one kind of thing. */
export interface Difference {
  readonly kind: EntityKind;
  readonly added: readonly string[];
  readonly removed: readonly string[];
  readonly changed: readonly { readonly name: string; readonly fields: readonly string[] }[];
  readonly same: number;
}

export function writeProjectFile(snapshot: Snapshot, exportedAt: string): Uint8Array {
  const { revision: _revision, proofs, ...rest } = snapshot;
  const project = { ...rest, proofs: proofs.map(({ isElsewhere: _, ...proof }) => proof) };
  const scales = new Map(snapshot.scales.map(({ id, scale }) => [id, scale]));
  const lists = snapshot.devices.map((device, i): readonly [string, string] => [
    `lists/${i + 1} ${device.name.replace(/[/\\:*?"<>|]/g, '-').slice(0, 80)}.csv`,
    writeList(
      snapshot.tags.filter((t) => t.deviceId === device.id),
      (tagId) => scales.get(tagId) ?? null,
    ),
  ]);
  return packTexts({ 'project.json': JSON.stringify({ exportedAt, ...project }, null, 2), ...Object.fromEntries(lists) }, KIND);
}

/** Reads a project file; every entity must obey its schema. The place of a problem names it. */
export function readProjectFile(zip: Uint8Array): Result<ProjectFile> {
  const texts = unpackTexts(zip, KIND);
  if (!texts.ok) return texts;
  let file: Record<string, unknown>;
  try {
    file = JSON.parse(texts.value['project.json'] ?? '') as Record<string, unknown>;
  } catch {
    return fail('json', 'project.json is no valid JSON.', 'Export the project again.', 'project.json');
  }
  const entities: { kind: EntityKind; entity: AnyEntity }[] = [];
  for (const kind of ENTITY_KINDS) {
    const found = kind === 'project' ? [file.project] : file[PLACES[kind]];
    if (!Array.isArray(found)) return fail('shape', `project.json has no ${PLACES[kind]}.`, undefined, PLACES[kind]);
    for (const [i, raw] of found.entries()) {
      const entity: unknown = { ...ENTITY_DEFAULTS[kind], ...(typeof raw === 'object' ? raw : {}) };
      try {
        ENTITY_SCHEMAS[kind].noUnknown(true, `A ${kind} has no such field.`).validateSync(entity, { strict: true });
      } catch (error) {
        if (!(error instanceof ValidationError)) throw error;
        return fail('invalid', error.message, undefined, `${PLACES[kind]}[${i}].${error.path ?? ''}`);
      }
      entities.push({ kind, entity: entity as AnyEntity });
    }
  }
  const project = entities.find((e) => e.kind === 'project')?.entity as { name: string } | undefined;
  return ok({
    name: project?.name ?? '',
    exportedAt: typeof file.exportedAt === 'string' ? file.exportedAt : '',
    entities,
    proofs: Array.isArray(file.proofs) ? file.proofs.filter(isProof).map(fromFile) : [],
  });
}

/** Compares a file with the project that is there, thing by thing, by their ids. */
export function compareProject(
  now: Snapshot,
  file: ProjectFile,
): { readonly differences: readonly Difference[]; readonly changes: readonly Change[] } {
  const changes: Change[] = [];
  const removals: Change[] = [];
  const differences = ENTITY_KINDS.map((kind): Difference => {
    const current = new Map((kind === 'project' ? [now.project] : (now[PLACES[kind]] as readonly AnyEntity[])).map((e) => [e.id, e]));
    const added: string[] = [];
    const changed: { name: string; fields: string[] }[] = [];
    let same = 0;
    for (const { entity } of file.entities.filter((e) => e.kind === kind)) {
      // The project itself stays; it takes the name of the one that comes.
      const before = kind === 'project' ? now.project : current.get(entity.id);
      const after = kind === 'project' ? { ...entity, id: now.project.id } : entity;
      current.delete(after.id);
      const { id, ...set } = after;
      const fields = Object.keys(set).filter(
        (f) => !sameJson((before as Record<string, unknown> | undefined)?.[f], (set as Record<string, unknown>)[f]),
      );
      if (!before) added.push(nameOf(after, file.entities));
      else if (fields.length > 0) changed.push({ name: nameOf(after, file.entities), fields });
      else same++;
      if (!before || fields.length > 0) changes.push({ kind, id, set });
    }
    for (const left of current.values()) removals.unshift({ kind, id: left.id, set: null });
    return { kind, added, changed, same, removed: [...current.values()].map((e) => nameOf(e, [])) };
  });
  return { differences, changes: [...changes, ...removals] };
}

function nameOf(entity: AnyEntity, all: ProjectFile['entities']): string {
  if ('name' in entity) return entity.name;
  if ('fileName' in entity) return entity.fileName;
  if ('label' in entity && entity.label) return entity.label;
  const tag = all.find((e) => e.kind === 'tag' && e.entity.id === ('tagId' in entity ? entity.tagId : entity.id))?.entity;
  return tag && 'name' in tag ? tag.name : entity.id;
}

/** Files of earlier versions do not say where a proof was made: then it was somewhere else. */
function fromFile(proof: FiledProof): FiledProof {
  const { tagId, digest, agrees, witness, who, at, seen } = proof;
  const madeIn = typeof proof.madeIn === 'string' && /^[0-9a-f-]{36}$/i.test(proof.madeIn) ? proof.madeIn : 'unknown';
  return { tagId, digest, agrees, witness, who, at, seen, madeIn };
}

function isProof(value: unknown): value is FiledProof {
  if (typeof value !== 'object' || value === null) return false;
  const proof = value as Record<string, unknown>;
  return (
    ['tagId', 'digest', 'witness', 'who', 'at'].every((f) => typeof proof[f] === 'string' && proof[f].length <= 200) &&
    /^[0-9a-f]{64}$/.test(proof.digest as string) &&
    /^[0-9a-f-]{36}$/i.test(proof.tagId as string) &&
    !Number.isNaN(Date.parse(proof.at as string)) &&
    typeof proof.agrees === 'boolean' &&
    typeof proof.seen === 'object' &&
    proof.seen !== null &&
    JSON.stringify(proof.seen).length < 5000
  );
}
