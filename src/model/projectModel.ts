/** The working project in memory with its indexes. Changes are checked and planned here, and only then applied. */
import {
  ENTITY_DEFAULTS,
  ENTITY_KINDS,
  type AnyEntity,
  type Element,
  type Entities,
  type EntityKind,
  type Group,
  type Enumeration,
  type Member,
  type Page,
  type Structure,
  type Tag,
} from '@/core/project/entities.ts';
import type { Change } from '@/core/project/command.ts';
import { atOnce, inSlices } from '@/core/inSlices.ts';
import { GroupSettings, type Inherited } from '@/core/project/inherited.ts';
import { pathDevice, tagPath } from '@/core/project/tagPath.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { PointSpec } from '@/drivers/contract.ts';
import { EffectiveSignals, pointOf, type EffectiveSignal, type SignalContext } from '@/mapping/effective.ts';
import type { CopyProject } from '@/mapping/copies/copyPairs.ts';
import { copiesIn } from './copiesIn.ts';
import { crowdedPage } from './crowdedPage.ts';
import { gone, place, staleField } from './refused.ts';
import { bindNames } from './bindNames.ts';
import { devicesByOwnNames } from './devicesByOwnNames.ts';
import { ExpressionUses } from '@/mapping/expressionUses.ts';
import { fitProblem, type Look } from './fits.ts';
import { followEnumerations } from './followEnumerations.ts';
import { followSharedScales } from './followSharedScales.ts';
import { followStructures, structuresNamed } from './followStructures.ts';
import { namedBy, referenceOf, ReferenceIndex, referencesFrom, referencesTo } from './references.ts';
import { hasKey, nameTaken, siblingKey, SiblingNames } from './siblingNames.ts';
import { validated } from './validated.ts';

export interface PlannedChange {
  readonly kind: EntityKind;
  readonly id: string;
  readonly before: AnyEntity | null;
  readonly after: AnyEntity | null;
}

const OF_DEVICE = referenceOf('tag', 'source');
const GROUPS_OF = referenceOf('group', 'deviceId');
const IN_GROUP = referenceOf('tag', 'groupId');
const UNDER_GROUP = referenceOf('group', 'parentId');
const SHOWS = referenceOf('element', 'tagId');
const PAGES_OF = referenceOf('page', 'panelId');
const STANDS_ON = referenceOf('element', 'pageId');
const FOLLOWS = referenceOf('tag', 'confirm');
const STRUCTURES_OF = referenceOf('structure', 'deviceId');
const BLOCKS_OF = referenceOf('block', 'deviceId');
const OF_ENUMERATION = referenceOf('tag', 'enumerationId');
const IN_BLOCK = referenceOf('member', 'blockId');
const OF_SHARED_SCALE = referenceOf('scale', 'sharedId');

type Tables = { [K in EntityKind]: Map<string, Entities[K]> };

export class ProjectModel {
  readonly #tables = Object.fromEntries(ENTITY_KINDS.map((kind) => [kind, new Map()])) as Tables;
  readonly #names = new SiblingNames();
  readonly #references = new ReferenceIndex();
  readonly #effective = new EffectiveSignals();
  readonly #settings = new GroupSettings();
  readonly #context = this.#contextOf((kind, id) => this.get(kind, id));
  readonly #uses = new ExpressionUses();

  all<K extends EntityKind>(kind: K): readonly Entities[K][] {
    return [...this.#tables[kind].values()];
  }

  count(kind: EntityKind): number {
    return this.#tables[kind].size;
  }

  get<K extends EntityKind>(kind: K, id: string): Entities[K] | null {
    return this.#tables[kind].get(id) ?? null;
  }

  /** @param among the group that it stands in, or right under which device; empty for the project */
  tagNamed(name: string, among: string): Tag | null {
    const id = this.#names.named('tag', among, name);
    return id === undefined ? null : this.get('tag', id);
  }

  /** A group inside another one, or right under a device or the project. @param among as {@link ProjectModel.tagNamed} */
  groupNamed(name: string, among: string): Group | null {
    const id = this.#names.named('group', among, name);
    return id === undefined ? null : this.get('group', id);
  }

  /** The tags in a group and in all groups inside it. */
  *tagIdsIn(groupId: string): Generator<string> {
    yield* this.#references.of(IN_GROUP, groupId);
    for (const inner of this.#references.of(UNDER_GROUP, groupId)) yield* this.tagIdsIn(inner);
  }

  /**
   * The groups of devices that changes take away, as far as the changes do not: entries of the log from before groups were
   * things of their own do not know of them.
   */
  groupsLeftBy(changes: readonly PlannedChange[]): readonly PlannedChange[] {
    const taken = new Set(changes.flatMap(({ kind, id, after }) => (kind === 'group' && after === null ? id : [])));
    const left: PlannedChange[] = [];
    for (const { kind, id: deviceId, after } of changes) {
      if (kind !== 'device' || after !== null) continue;
      for (const id of this.#references.of(GROUPS_OF, deviceId))
        if (!taken.has(id)) left.push({ kind: 'group', id, before: this.get('group', id), after: null });
    }
    return left;
  }

  /**
   * Devices that come back from the log by a name that another one has: entries from before the names of devices were their
   * own in the whole project. They get a number.
   */
  withOwnNames(changes: readonly PlannedChange[]): readonly PlannedChange[] {
    return devicesByOwnNames(changes, (key) => this.#names.holder(key));
  }

  /** What the groups above a tag say. */
  inheritedBy({ groupId }: Pick<Tag, 'groupId'>): Inherited {
    return this.#settings.below(groupId, (id) => this.get('group', id));
  }

  pathOf(tag: Tag): string {
    return tagPath(tag, { group: (id) => this.get('group', id), device: (id) => this.get('device', id) });
  }

  tagsOf(deviceId: string): readonly Tag[] {
    return this.tagIdsOf(deviceId).flatMap((id) => this.get('tag', id) ?? []);
  }

  /** Costs nothing to speak of, also where there are a hundred thousand. */
  tagIdsOf(deviceId: string): readonly string[] {
    return [...this.#references.of(OF_DEVICE, deviceId)];
  }

  tagCountOn(deviceId: string): number {
    return this.#references.count(OF_DEVICE, deviceId);
  }

  /** In their order. */
  pagesOf(panelId: string): readonly Page[] {
    return [...this.#references.of(PAGES_OF, panelId)].flatMap((id) => this.get('page', id) ?? []).sort((a, b) => a.position - b.position);
  }

  /** The tags whose paths begin with a device: its own, and those of other sources in its groups. */
  tagsOn(deviceId: string): readonly Tag[] {
    const grouped = [...this.#references.of(GROUPS_OF, deviceId)].flatMap((id) => [...this.tagIdsIn(id)]);
    const ids = new Set([...this.tagIdsOf(deviceId), ...grouped]);
    const context = { group: (id: string) => this.get('group', id) };
    return [...ids].flatMap((id) => this.get('tag', id) ?? []).filter((tag) => pathDevice(tag, context) === deviceId);
  }

  membersOf(blockId: string): readonly Member[] {
    return [...this.#references.of(IN_BLOCK, blockId)].flatMap((id) => this.get('member', id) ?? []);
  }

  elementsOn(pageId: string): readonly Element[] {
    return [...this.#references.of(STANDS_ON, pageId)].flatMap((id) => this.get('element', id) ?? []);
  }

  /** Elements whose own tag it is. */
  elementsOf(tagId: string): readonly Element[] {
    return [...this.#references.of(SHOWS, tagId)].flatMap((id) => this.get('element', id) ?? []);
  }

  /** Whether the write of another tag is confirmed by this one. */
  isFollowed(tagId: string): boolean {
    return this.#references.count(FOLLOWS, tagId) > 0;
  }

  /** Calculated tags that use some of these, and those that use them in turn. */
  usersOf(tagIds: Iterable<string>): ReadonlySet<string> {
    return this.#uses.of(tagIds);
  }

  /** The tag's settings with its device's and link's filled in, or what does not fit together. */
  effective(tagId: string): Result<EffectiveSignal> {
    const tag = this.get('tag', tagId);
    if (!tag) return fail('gone', 'The tag is no longer there.');
    return this.#effective.of(tag, this.#context);
  }

  /** What copy rules are looked at in. */
  get copies(): CopyProject {
    return this.#copiesIn((kind, id) => this.get(kind, id));
  }

  /** What is read of a device: its tags whose settings fit together. */
  pointsOf(deviceId: string): readonly PointSpec[] {
    return this.tagsOf(deviceId).flatMap((tag) => {
      const signal = this.effective(tag.id);
      return signal.ok ? [pointOf(tag.id, signal.value)] : [];
    });
  }

  /**
   * Checks a command as a whole and says what it would do. What depends on something removed is removed with it;
   * panel elements of a removed tag stay and lose their tag. Nothing is changed by planning.
   */
  plan(changes: readonly Change[]): Result<readonly PlannedChange[]> {
    return atOnce(this.#planning(changes));
  }

  /** The same, a slice at a time, for commands of thousands of changes. Nothing else may be applied meanwhile. */
  async planInSlices(changes: readonly Change[]): Promise<Result<readonly PlannedChange[]>> {
    return inSlices(this.#planning(changes));
  }

  /**
   * What stands against new tags and scales that were checked one by one already: names that are taken, things that are
   * gone. They come beside planned changes.
   */
  *refusing(
    brought: readonly { readonly kind: 'tag' | 'scale'; readonly entity: AnyEntity }[],
    planned: readonly PlannedChange[],
  ): Generator<void, Problem | null> {
    const after = new Map(planned.filter(({ kind }) => kind === 'tag').map(({ id, after: tag }) => [id, tag as Tag | null]));
    const names = new Set<string>();
    for (const tag of after.values()) if (tag) names.add(siblingKey('tag', tag) ?? '');
    const owners = new Map<string, 'device' | 'group'>();
    const groups = new Set(planned.flatMap(({ kind, id, after: group }) => (kind === 'group' && group ? id : [])));
    for (const { kind, entity } of brought) {
      yield;
      if (this.get(kind, entity.id) !== null)
        return { code: 'id', message: `There is a ${kind} with this id already.`, remedy: 'Read the list again.' };
      if (kind !== 'tag') continue;
      const { groupId } = entity as Tag;
      owners.set(deviceIdOf(entity as Tag) ?? '', 'device');
      if (groupId !== null && !groups.has(groupId)) owners.set(groupId, 'group');
      const key = siblingKey('tag', entity) ?? '';
      const other = this.#names.holder(key);
      const isTaken = other !== undefined && (!after.has(other) || hasKey('tag', after.get(other) ?? null, key));
      if (isTaken || names.has(key))
        return {
          code: 'name-taken',
          message: nameTaken('tag', entity),
          remedy: 'Read the list again.',
          place: `tag ${entity.id} name`,
        };
      names.add(key);
    }
    for (const [id, kind] of owners)
      if (this.get(kind, id) === null)
        return {
          code: 'reference',
          message: `The ${kind} it belongs to is not there (any more).`,
          remedy: 'Reload, and try again.',
          place: kind === 'device' ? 'source' : 'groupId',
        };
    return null;
  }

  *#planning(changes: readonly Change[]): Generator<void, Result<readonly PlannedChange[]>> {
    const after = new Map<string, { kind: EntityKind; entity: AnyEntity | null }>();
    const look = <K extends EntityKind>(kind: K, id: string): Entities[K] | null => {
      const planned = after.get(`${kind} ${id}`);
      return planned ? (planned.entity as Entities[K] | null) : this.get(kind, id);
    };
    const put = (kind: EntityKind, id: string, entity: AnyEntity | null): void => void after.set(`${kind} ${id}`, { kind, entity });

    for (const change of changes) {
      yield;
      const current = look(change.kind, change.id);
      const stale = staleField(change, current);
      if (stale) return { ok: false, problem: stale };
      if (change.set === null) {
        if (current === null && after.has(`${change.kind} ${change.id}`)) continue; // gone with what it belonged to
        if (current === null) return gone(change);
        if (change.kind === 'project') return fail('project', 'The project itself cannot be removed.');
        put(change.kind, change.id, null);
        this.#removeDependents(change.kind, change.id, put, look);
        continue;
      }
      if (change.set.id !== undefined && change.set.id !== change.id) return fail('id', 'An id cannot be changed.', undefined, place(change, 'id'));
      if (change.kind === 'project' && current === null && this.all('project').length > 0)
        return fail('project', 'A data folder holds one project.', 'Change the one that is there.');
      const merged = { ...(ENTITY_DEFAULTS[change.kind] ?? {}), ...(current ?? {}), ...change.set, id: change.id };
      const checked = validated(change, merged);
      if (!checked.ok) return checked;
      put(change.kind, change.id, checked.value);
    }
    const renamed = [...after.values()].flatMap(({ kind, entity }) => {
      const before = kind === 'enumeration' && entity ? this.get('enumeration', entity.id) : null;
      return before && !sameJson(before.names, (entity as Enumeration).names) ? [{ before, after: entity as Enumeration }] : [];
    });
    yield* followEnumerations(renamed, {
      look,
      put,
      tagsOf: (id) => this.#references.of(OF_ENUMERATION, id),
      structuresNamed: (deviceId) => structuresNamed(this.#references.of(STRUCTURES_OF, deviceId), look),
    });
    yield* followSharedScales([...after.values()], {
      before: (kind, id) => this.get(kind, id),
      look,
      put,
      tagsOf: (id) => this.#references.of(OF_SHARED_SCALE, id),
    });
    const reshaped = [...after.values()].flatMap(({ kind, entity }) => {
      const before = kind === 'structure' && entity ? this.get('structure', entity.id) : null;
      return before && !sameJson(before.members, (entity as Structure).members) ? [entity as Structure] : [];
    });
    yield* followStructures(reshaped, {
      before: (kind, id) => this.get(kind, id),
      bringsTags: changes.some(({ kind }) => kind === 'source'),
      tagBeside: (sibling, name) => this.#names.holder(siblingKey('tag', { ...sibling, name }) ?? '') ?? null,
      look,
      put,
      structuresOf: (deviceId) => this.#references.of(STRUCTURES_OF, deviceId),
      blocksOf: (deviceId) => this.#references.of(BLOCKS_OF, deviceId),
      membersOf: (blockId) => this.#references.of(IN_BLOCK, blockId),
    });
    const bound = bindNames(after, { look, named: (kind, among, name) => this.#names.named(kind, among, name) });
    if (!bound.ok) return bound;
    for (const { kind, entity } of bound.value) put(kind, entity.id, entity);
    for (const [key, { kind, entity }] of after) {
      if (entity === null) continue;
      yield;
      const problem = this.#checkReferences(kind, entity, look) ?? this.#checkFits(kind, entity, look);
      if (problem) return { ok: false, problem: { ...problem, place: `${key}${problem.place ? ` ${problem.place}` : ''}` } };
    }
    const crowded = crowdedPage(after, {
      before: (id) => this.get('element', id),
      countOn: (pageId) => this.#references.count(STANDS_ON, pageId),
    });
    if (crowded) return { ok: false, problem: crowded };
    const twice = yield* this.#nameTwice(after, look);
    if (twice) return { ok: false, problem: twice };
    const planned: PlannedChange[] = [];
    for (const [key, { kind, entity }] of after) {
      yield;
      const id = key.slice(kind.length + 1);
      planned.push({ kind, id, before: this.get(kind, id), after: entity });
    }
    return ok(planned);
  }

  /** Takes planned changes over. */
  apply(changes: readonly PlannedChange[]): void {
    for (const change of changes) {
      this.#unindex(change.kind, change.id);
      if (change.after === null) {
        this.#tables[change.kind].delete(change.id);
        if (change.kind === 'tag') this.#effective.forget(change.id);
      } else {
        (this.#tables[change.kind] as Map<string, AnyEntity>).set(change.id, change.after);
        this.#index(change.kind, change.after);
      }
    }
  }

  #removeDependents(
    kind: EntityKind,
    id: string,
    put: (kind: EntityKind, id: string, entity: AnyEntity | null) => void,
    look: <K extends EntityKind>(kind: K, id: string) => Entities[K] | null,
  ): void {
    const remove = (dependent: EntityKind, dependentId: string): void => {
      if (look(dependent, dependentId) === null) return;
      put(dependent, dependentId, null);
      this.#removeDependents(dependent, dependentId, put, look);
    };
    for (const reference of referencesTo(kind))
      for (const referrer of [...this.#references.of(reference, id)]) {
        const entity = look(reference.kind, referrer);
        if (entity === null || namedBy(entity, reference) !== id) continue;
        if (reference.whenGone === 'removed') remove(reference.kind, referrer);
        else {
          const { [reference.field as keyof AnyEntity]: value } = entity;
          put(reference.kind, referrer, { ...entity, [reference.field]: reference.whenGone(value) });
        }
      }
  }

  #checkReferences(kind: EntityKind, entity: AnyEntity, look: <K extends EntityKind>(kind: K, id: string) => AnyEntity | null): Problem | null {
    for (const reference of referencesFrom(kind)) {
      const id = namedBy(entity, reference);
      if (id !== null && look(reference.to, id) === null)
        return {
          code: 'reference',
          message: `The ${reference.to} it belongs to is not there (any more).`,
          remedy: 'Reload, and try again.',
          place: reference.field,
        };
    }
    return null;
  }

  #checkFits(kind: EntityKind, entity: AnyEntity, look: Look): Problem | null {
    return fitProblem(kind, entity, {
      look,
      copies: () => this.#copiesIn(look),
      groupBefore: (id) => this.get('group', id),
      named: (of, name) => this.#names.named(of, '', name),
      // Kept: what is planned here is what is applied, and then it is known already.
      effective: (tag) => this.#effective.of(tag, this.#contextOf(look)),
    });
  }

  #copiesIn(look: Look): CopyProject {
    return copiesIn(look, {
      rules: this.all('copyRule'),
      membersOf: (blockId) => this.#references.of(IN_BLOCK, blockId),
      uses: this.#uses,
      effective: (tag) => this.#effective.of(tag, this.#contextOf(look)),
    });
  }

  #contextOf(look: Look): SignalContext {
    return {
      tag: (id) => look('tag', id),
      device: (id) => look('device', id),
      link: (id) => look('link', id),
      scale: (id) => look('scale', id),
      inheritedBy: (groupId) => this.#settings.below(groupId, (id) => look('group', id)),
    };
  }

  *#nameTwice(
    after: ReadonlyMap<string, { kind: EntityKind; entity: AnyEntity | null }>,
    look: <K extends EntityKind>(kind: K, id: string) => Entities[K] | null,
  ): Generator<void, Problem | null> {
    const planned = new Map<string, string>();
    for (const { kind, entity } of after.values()) {
      yield;
      const key = entity && siblingKey(kind, entity);
      if (entity === null || key === null) continue;
      const other = planned.get(key) ?? this.#names.holder(key);
      if (other !== undefined && other !== entity.id && hasKey(kind, look(kind, other), key))
        return {
          code: 'name-taken',
          message: nameTaken(kind, entity),
          remedy: 'Choose another name.',
          place: `${kind} ${entity.id} name`,
        };
      planned.set(key, entity.id);
    }
    return null;
  }

  #index(kind: EntityKind, entity: AnyEntity): void {
    this.#names.add(kind, entity);
    this.#references.add(kind, entity);
    if (kind === 'tag') this.#uses.add(entity as Tag);
  }

  #unindex(kind: EntityKind, id: string): void {
    const entity = this.get(kind, id);
    if (!entity) return;
    this.#names.remove(kind, entity);
    this.#references.remove(kind, entity);
    if (kind === 'tag') this.#uses.remove(entity as Tag);
  }
}
