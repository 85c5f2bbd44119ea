/**
 * Tags and scales that came by thousands lie packed in one row, as the list that brought them: storing as many rows takes
 * longer than reading the list. Which ones lie there is known in memory; one that is changed or removed afterwards is
 * marked as unpacked, and from then on has its own row or none.
 */
import type { Tag, TagScale } from '@/core/project/entities.ts';
import { EarlierGroups } from '@/core/project/earlier.ts';
import { nextTurn } from '@/core/inSlices.ts';
import { fieldIn, type JsonTable } from '@/core/jsonTable.ts';
import { newTag, type NewRow, type NewTags } from '@/core/taglist/newTags.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { Database } from './database.ts';
import { itemsIn, linesOf, unpackLines } from './packed.ts';
import type { Statement } from './protocol.ts';

export type PackedEntity = { readonly kind: 'tag'; readonly entity: Tag } | { readonly kind: 'scale'; readonly entity: TagScale };
export interface Pack {
  readonly id: string;
  readonly entities: readonly PackedEntity[];
}
/** A pack that is not stored yet. */
export interface NewPack extends Pack {
  /** Its entities, packed; waited for when it is stored. */
  readonly packed: Promise<string>;
}

const SLICE = 2000;

/** Begins the first line of a pack, which says what its tags have in common; all others are rows of the list they came with. */
const HEAD = 'new ';

/** The lines that new tags of a list are packed as, each made when it is asked for. */
export function* packLinesOf(rows: Iterable<ListTag>, common: NewTags): Generator<string> {
  yield HEAD + JSON.stringify(common);
  yield* linesOf(rows);
}

/** Reads a pack line by line, into tags and their scales. */
export class PackReader {
  #common: NewTags | null = null;
  #count = 0;
  /** For packs of before groups were things of their own. */
  readonly #earlier: EarlierGroups;

  constructor(earlier = new EarlierGroups()) {
    this.#earlier = earlier;
  }

  read(line: string): readonly PackedEntity[] {
    if (line.startsWith(HEAD)) {
      this.#common = JSON.parse(line.slice(HEAD.length)) as NewTags;
      return [];
    }
    if (!this.#common) throw new Error('A pack does not say whose tags it holds.');
    const found: PackedEntity[] = [];
    for (const row of rowsIn(line)) {
      const made = newTag(row, this.#count++, this.#common);
      const entity = this.#common.groups ? made : { ...made, groupId: this.#earlier.idOf(this.#common.deviceId, row.group) };
      found.push({ kind: 'tag', entity });
      if (row.scale) found.push({ kind: 'scale', entity: { id: entity.id, scale: row.scale, sharedId: null } });
    }
    return found;
  }
}

/** The rows of a list in a pack, or in a list that was packed by itself. */
export async function unpackRows(packed: string): Promise<readonly ListTag[]> {
  const rows: ListTag[] = [];
  for await (const line of unpackLines(packed)) if (!line.startsWith(HEAD)) for (const row of itemsIn<ListTag>(line)) rows.push({ ...LATER, ...row });
  return rows;
}

/** Fields that came later than the first lists that were kept. */
const LATER: Pick<ListTag, 'initial' | 'names' | 'within' | 'enumeration'> = { initial: '', names: [], within: [], enumeration: '' };

function rowsIn(line: string): readonly (NewRow & Pick<ListTag, 'scale'>)[] {
  const read = JSON.parse(line) as JsonTable | readonly ListTag[];
  if (!('rows' in read)) return read;
  const of = (field: keyof ListTag): ((row: readonly unknown[]) => never) =>
    fieldIn<ListTag>(read, field, null) as (row: readonly unknown[]) => never;
  const [name, listName, group, address, type, order] = [of('name'), of('listName'), of('group'), of('address'), of('type'), of('order')];
  const [periodMs, access, unit, decimals, rangeLow] = [of('periodMs'), of('access'), of('unit'), of('decimals'), of('rangeLow')];
  const [rangeHigh, comment, names, initial, scale] = [of('rangeHigh'), of('comment'), of('names'), of('initial'), of('scale')];
  return read.rows.map((row) => ({
    name: name(row),
    listName: listName(row),
    group: group(row),
    address: address(row),
    type: type(row),
    order: order(row),
    periodMs: periodMs(row),
    access: access(row),
    unit: unit(row),
    decimals: decimals(row),
    rangeLow: rangeLow(row),
    rangeHigh: rangeHigh(row),
    comment: comment(row),
    names: names(row),
    initial: initial(row),
    scale: scale(row),
  }));
}

export class Packs {
  readonly #packOf: Readonly<Record<PackedEntity['kind'], Map<string, string>>> = { tag: new Map(), scale: new Map() };

  /**
   * Everything that lies in packs and is as it was packed.
   * @param earlier takes up the groups of packs of before
   */
  async load(database: Database, earlier: EarlierGroups): Promise<readonly PackedEntity[]> {
    const [ids, marks] = await Promise.all([
      database.query('select id from packs where is_live'),
      database.query('select kind, id from unpacked', [], true),
    ]);
    const unpacked = new Set(marks.map((row) => `${String(row.kind)} ${String(row.id)}`));
    const found: PackedEntity[] = [];
    for (const { id } of ids) {
      const { entities } = await this.read(database, String(id), earlier);
      for (const packed of entities) {
        if (unpacked.has(`${packed.kind} ${packed.entity.id}`)) continue;
        found.push(packed);
        this.#packOf[packed.kind].set(packed.entity.id, String(id));
      }
    }
    return found;
  }

  async read(database: Database, id: string, earlier?: EarlierGroups): Promise<Pack> {
    const row = (await database.query('select packed from packs where id = $1', [id], true))[0];
    const entities: PackedEntity[] = [];
    const reader = new PackReader(earlier);
    if (row) for await (const line of unpackLines(String(row.packed))) for (const entity of reader.read(line)) entities.push(entity);
    return { id, entities };
  }

  /** What came with a pack, whether it still lies there or has its own row by now. */
  async members(database: Database, packId: string): Promise<readonly { readonly kind: PackedEntity['kind']; readonly id: string }[]> {
    const found: { kind: PackedEntity['kind']; id: string }[] = [];
    let looked = 0;
    for (const kind of ['tag', 'scale'] as const)
      for (const [id, own] of this.#packOf[kind]) {
        if (own === packId) found.push({ kind, id });
        if (++looked % SLICE === 0) await nextTurn();
      }
    const marks = await database.query('select kind, id from unpacked where pack_id = $1', [packId], true);
    for (const { kind, id } of marks) found.push({ kind: kind === 'scale' ? 'scale' : 'tag', id: String(id) });
    return found;
  }

  /** The packs in which anything still lies. */
  async inUse(): Promise<ReadonlySet<string>> {
    const found = new Set<string>();
    let looked = 0;
    for (const kind of ['tag', 'scale'] as const)
      for (const packId of this.#packOf[kind].values()) {
        found.add(packId);
        if (++looked % SLICE === 0) await nextTurn();
      }
    return found;
  }

  async adding({ id, packed }: NewPack): Promise<Statement> {
    return { sql: 'insert into packs (id, is_live, packed) values ($1, true, $2)', params: [id, await packed] };
  }

  /** Marks those of the changed entities that lie in a pack. */
  *unpacking(changed: Iterable<{ readonly kind: string; readonly id: string }>): Generator<void, readonly Statement[]> {
    const marks: (readonly [packId: string, kind: string, id: string])[] = [];
    for (const { kind, id } of changed) {
      yield;
      const packId = kind === 'tag' || kind === 'scale' ? this.#packOf[kind].get(id) : undefined;
      if (packId !== undefined) marks.push([packId, kind, id]);
    }
    if (marks.length === 0) return [];
    const list = (at: 0 | 1 | 2): string => `{${marks.map((mark) => mark[at]).join(',')}}`;
    return [
      {
        sql: 'insert into unpacked (pack_id, kind, id) select * from unnest($1::uuid[], $2::text[], $3::uuid[]) on conflict do nothing',
        params: [list(0), list(1), list(2)],
      },
    ];
  }

  /** Takes a pack out of the project with all that was made of it, or puts it back as it was packed. */
  switching(id: string, isLive: boolean): readonly Statement[] {
    const ofPack = (kind: string): string => `(select id from unpacked where pack_id = $1 and kind = '${kind}')`;
    return [
      { sql: `delete from scales where id in ${ofPack('scale')}`, params: [id] },
      { sql: `delete from tags where id in ${ofPack('tag')}`, params: [id] },
      { sql: 'delete from unpacked where pack_id = $1', params: [id] },
      { sql: 'update packs set is_live = $2 where id = $1', params: [id, isLive] },
    ];
  }

  async remember({ id, entities }: Pack): Promise<void> {
    for (const [at, { kind, entity }] of entities.entries()) {
      this.#packOf[kind].set(entity.id, id);
      if (at % SLICE === 0) await nextTurn();
    }
  }
  /** Once the statements are carried out: what lies in packs no more. */
  async forget(changed: readonly { readonly kind: string; readonly id: string }[]): Promise<void> {
    for (const [at, { kind, id }] of changed.entries()) {
      if (kind === 'tag' || kind === 'scale') this.#packOf[kind].delete(id);
      if (at % SLICE === 0) await nextTurn();
    }
  }
}
