/** Loads a project and writes its changes, each with its log entry in one transaction. */
import { fromEarlierElement, isEarlierElement } from '@/core/panel/earlierElement.ts';
import { EarlierGroups, fromEarlierTag, isEarlierTag } from '@/core/project/earlier.ts';
import { ENTITY_DEFAULTS, ENTITY_KINDS, KINDS, type AnyEntity, type EntityKind, type Group, type Source } from '@/core/project/entities.ts';
import { inSlices } from '@/core/inSlices.ts';
import type { Kind } from '@/core/project/kinds/kind.ts';
import type { Database } from './database.ts';
import { entityTable, type EntityTable } from './entityTable.ts';
import { pack, unpack } from './packed.ts';
import { Packs, type NewPack, type Pack } from './packs.ts';
import type { Statement } from './protocol.ts';
import { prune, type Kept } from './pruning.ts';

const TABLES = Object.fromEntries(ENTITY_KINDS.map((kind) => [kind, entityTable(KINDS[kind] as Kind<AnyEntity>)])) as Readonly<
  Record<EntityKind, EntityTable<AnyEntity>>
>;

/** One entity as it stood before and stands after; null where it did or does not exist. */
export interface StoredChange {
  readonly kind: EntityKind;
  readonly id: string;
  readonly before: AnyEntity | null;
  readonly after: AnyEntity | null;
}

/** Where changes come from that make a project rather than change it: there is nothing before them to go back to. */
export const SET_UP = 'set-up';

export interface LogEntry {
  readonly seq: number;
  readonly commandId: string;
  readonly label: string;
  readonly origin: string;
  readonly at: string;
  readonly state: 'done' | 'undone' | 'dropped';
}

/** Above so many changes they are packed, and those of one kind stored together, so many at once. */
const LARGE = 200;
const BULK = 500;

/** The change that undo or redo would take next. */
export interface NextChange {
  readonly seq: number;
  readonly label: string;
  readonly changes: readonly StoredChange[];
  /** What it brought packed: the entities themselves to redo it, else which they are. */
  readonly pack: Pack | null;
  readonly members: Awaited<ReturnType<Packs['members']>>;
}

export class ProjectStore {
  readonly #database: Database;
  readonly #packs = new Packs();

  constructor(database: Database) {
    this.#database = database;
  }

  async load(): Promise<readonly { readonly kind: EntityKind; readonly entity: AnyEntity }[]> {
    const results = await this.#database.transaction(
      ENTITY_KINDS.map((kind) => ({ sql: TABLES[kind].load })),
      true,
    );
    const earlier = new EarlierGroups();
    const packed = await this.#packs.load(this.#database, earlier);
    const fromPacks = await this.#withoutThoseThere(earlier.groups);
    if (fromPacks.length > 0) await this.#database.transaction(fromPacks.map((group) => TABLES.group.put(group)));
    return ENTITY_KINDS.flatMap((kind, i) => [
      ...(results[i] ?? []).map((row) => ({ kind, entity: TABLES[kind].fromRow(row) })),
      ...(kind === 'tag' || kind === 'scale'
        ? packed.filter((p) => p.kind === kind).map(({ entity }) => ({ kind, entity: wholeOf(kind, entity) }))
        : []),
      ...(kind === 'group' ? fromPacks.map((entity) => ({ kind, entity })) : []),
    ]);
  }

  /**
   * A new change: what was undone before it can no longer be redone.
   * @param more what else belongs to it, and is kept whether it is undone or not
   * @param brought new entities that come packed
   * @returns its number in the log
   */
  async commit(
    entry: Omit<LogEntry, 'seq' | 'state'>,
    changes: readonly StoredChange[],
    more: readonly Statement[] = [],
    brought: NewPack | null = null,
  ): Promise<number> {
    const isLarge = changes.length > LARGE;
    const [written, packed] = isLarge ? ['[]', await pack(changes)] : [JSON.stringify(changes), null];
    const statements = [
      ...(await inSlices(this.#packs.unpacking(changes))),
      ...(await inSlices(statementsOf(changes))),
      ...(brought ? [await this.#packs.adding(brought)] : []),
      ...more,
      ...(entry.origin === SET_UP
        ? []
        : [
            {
              // What a version of a list lies in stays, as the version does.
              sql: `delete from packs where id in (select pack_id from change_log where state = 'undone')
                    and not exists (select 1 from list_versions where pack_id = packs.id)`,
            },
            { sql: `update change_log set state = 'dropped', changes = '[]', packed = null, pack_id = null where state = 'undone'` },
          ]),
      {
        sql: `insert into change_log (command_id, label, origin, at, changes, packed, pack_id, version_ids, state) values ($1, $2, $3, $4, $5, $6, $7, $8, 'done') returning seq`,
        params: [entry.commandId, entry.label, entry.origin, entry.at, written, packed, brought?.id ?? null, `{${versionsIn(changes).join(',')}}`],
      },
    ];
    const stored = this.#database.transaction(statements, isLarge || brought !== null || statements.length > LARGE);
    // Nobody knows the new ones yet: where they lie is noted while they are stored.
    const noting = brought ? this.#packs.remember(brought) : null;
    let results: Awaited<typeof stored>;
    try {
      results = await stored;
    } catch (error) {
      await noting;
      if (brought) await this.#packs.forget(brought.entities.map(({ kind, entity }) => ({ kind, id: entity.id })));
      throw error;
    }
    await this.#packs.forget(changes);
    await noting;
    return Number(results.at(-1)?.[0]?.seq);
  }

  /** Removes what is no longer kept; nothing else may be changed meanwhile. */
  async prune(kept?: Kept): Promise<void> {
    await prune(this.#database, await this.#packs.inUse(), kept);
  }

  async hasCommand(commandId: string): Promise<boolean> {
    return (await this.#database.query('select 1 from change_log where command_id = $1', [commandId])).length > 0;
  }

  /** The change that undo or redo would take next. */
  async next(direction: 'undo' | 'redo'): Promise<NextChange | null> {
    const sql =
      direction === 'undo'
        ? `select seq, label, packed, pack_id from change_log where state = 'done' and origin <> $1 order by seq desc limit 1`
        : `select seq, label, packed, pack_id from change_log where state = 'undone' and origin <> $1 order by seq asc limit 1`;
    const row = (await this.#database.query(sql, [SET_UP]))[0];
    if (!row) return null;
    const packId = typeof row.pack_id === 'string' ? row.pack_id : null;
    const earlier = new EarlierGroups();
    const brought =
      packId === null ? null : direction === 'redo' ? await this.#packs.read(this.#database, packId, earlier) : { id: packId, entities: [] };
    const members = packId !== null && direction === 'undo' ? await this.#packs.members(this.#database, packId) : [];
    const entry = { seq: Number(row.seq), label: String(row.label), pack: brought, members };
    const stored = typeof row.packed === 'string' ? await unpack<StoredChange>(row.packed) : await this.#changesOf(row.seq);
    const changes = await inSlices(filling(stored, earlier));
    // Groups that only a change of before speaks of come, or come back, with it.
    const groups = (await this.#withoutThoseThere(earlier.groups)).map(({ id, ...group }): StoredChange => {
      const [gone, there] = [null, { id, ...group }];
      return { kind: 'group', id, before: direction === 'undo' ? there : gone, after: direction === 'undo' ? gone : there };
    });
    return { ...entry, changes: [...groups, ...changes] };
  }

  /** Which of the groups have no row of their own. */
  async #withoutThoseThere(groups: readonly Group[]): Promise<readonly Group[]> {
    if (groups.length === 0) return [];
    const ids = `{${groups.map(({ id }) => id).join(',')}}`;
    const there = new Set((await this.#database.query('select id from groups where id = any($1::uuid[])', [ids])).map((row) => String(row.id)));
    return groups.filter(({ id }) => !there.has(id));
  }

  async #changesOf(seq: unknown): Promise<readonly StoredChange[]> {
    // A row a change: entries of older versions have thousands in one, and rows come in portions.
    const changes = await this.#database.query(
      `select element.value from change_log, jsonb_array_elements(changes) with ordinality as element where seq = $1 order by element.ordinality`,
      [seq],
    );
    return changes.map(({ value }) => value as StoredChange);
  }

  /** Writes the state that an undo or redo leads to, and marks the entry. */
  async commitAgain({ seq, pack: brought, members }: NextChange, direction: 'undo' | 'redo', changes: readonly StoredChange[]): Promise<void> {
    await this.#database.transaction(
      [
        ...(await inSlices(this.#packs.unpacking(changes))),
        ...(await inSlices(statementsOf(changes))),
        ...(brought ? this.#packs.switching(brought.id, direction === 'redo') : []),
        { sql: 'update change_log set state = $1 where seq = $2', params: [direction === 'undo' ? 'undone' : 'done', seq] },
      ],
      changes.length > LARGE || brought !== null,
    );
    await this.#packs.forget(changes);
    if (brought) await (direction === 'redo' ? this.#packs.remember(brought) : this.#packs.forget(members));
  }

  async history(limit: number): Promise<readonly LogEntry[]> {
    const rows = await this.#database.query('select seq, command_id, label, origin, at, state from change_log order by seq desc limit $1', [limit]);
    return rows.map((row) => ({
      seq: Number(row.seq),
      commandId: String(row.command_id),
      label: String(row.label),
      origin: String(row.origin),
      at: new Date(row.at as string).toISOString(),
      state: row.state as LogEntry['state'],
    }));
  }
}

/** The versions of lists that sources stand at before or after. */
function versionsIn(changes: readonly StoredChange[]): readonly string[] {
  const found = new Set<string>();
  for (const { kind, before, after } of changes)
    if (kind === 'source') for (const source of [before, after] as readonly (Source | null)[]) if (source?.versionId) found.add(source.versionId);
  return [...found];
}

/** What was packed by an older version lacks the fields that came later. */
function wholeOf(kind: EntityKind, entity: AnyEntity): AnyEntity {
  return { ...(ENTITY_DEFAULTS[kind] ?? {}), ...entity };
}

/** @param earlier takes up the groups of tags that were stored before there were any */
function* filling(changes: readonly StoredChange[], earlier: EarlierGroups): Generator<void, readonly StoredChange[]> {
  const all: StoredChange[] = [];
  for (const change of changes) {
    all.push(filled(todays(change, earlier)));
    yield;
  }
  return all;
}

function todays(change: StoredChange, earlier: EarlierGroups): StoredChange {
  if (change.kind !== 'tag' && change.kind !== 'element') return change;
  const now = (entity: AnyEntity | null): AnyEntity | null => {
    const stored = entity as Readonly<Record<string, unknown>> | null;
    if (stored && change.kind === 'element') return isEarlierElement(stored) ? (fromEarlierElement(stored) as unknown as AnyEntity) : entity;
    return stored && isEarlierTag(stored) ? fromEarlierTag(stored, earlier) : entity;
  };
  return { ...change, before: now(change.before), after: now(change.after) };
}

/** An entry of an older version lacks the fields that came later. */
function filled(change: StoredChange): StoredChange {
  const defaults = ENTITY_DEFAULTS[change.kind] ?? {};
  const isWhole = (entity: AnyEntity | null): boolean => entity === null || Object.keys(defaults).every((field) => field in entity);
  if (isWhole(change.before) && isWhole(change.after)) return change;
  const whole = (entity: AnyEntity | null): AnyEntity | null => (entity === null ? null : { ...defaults, ...entity });
  return { ...change, before: whole(change.before), after: whole(change.after) };
}

/**
 * Removals first, dependents before what they depend on; then what is put, in the order it can be referred to. Many of
 * one kind go together.
 */
function* statementsOf(changes: readonly StoredChange[]): Generator<void, Statement[]> {
  const statements: Statement[] = [];
  const groups = new Map<EntityKind, { readonly removed: string[]; readonly put: AnyEntity[]; areNew: boolean }>();
  for (const { kind, id, before, after } of changes) {
    yield;
    let group = groups.get(kind);
    if (!group) groups.set(kind, (group = { removed: [], put: [], areNew: true }));
    if (after === null) group.removed.push(id);
    else {
      group.put.push(after);
      group.areNew &&= before === null;
    }
  }
  for (const kind of [...ENTITY_KINDS].reverse()) {
    const { removed = [] } = groups.get(kind) ?? {};
    if (removed.length <= LARGE) statements.push(...removed.map((id) => TABLES[kind].remove(id)));
    else for (let from = 0; from < removed.length; from += BULK) statements.push(TABLES[kind].removeAll(removed.slice(from, from + BULK)));
  }
  for (const kind of ENTITY_KINDS) {
    const { put = [], areNew = true } = groups.get(kind) ?? {};
    const table = TABLES[kind];
    if (put.length <= LARGE) statements.push(...put.map((entity) => table.put(entity)));
    else
      for (let from = 0; from < put.length; from += BULK) {
        let csv = '';
        for (const entity of put.slice(from, from + BULK)) {
          csv += table.csvOf(entity);
          yield;
        }
        statements.push(...table.putAll(csv, areNew));
      }
  }
  return statements;
}
