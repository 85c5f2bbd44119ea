/** The working project in memory with its indexes. Changes are checked and planned here, and only then applied. */
import { ValidationError, type AnyObjectSchema } from 'yup';
import {
  ENTITY_DEFAULTS,
  ENTITY_KINDS,
  ENTITY_SCHEMAS,
  type AnyEntity,
  type Change,
  type Device,
  type Element,
  type Entities,
  type EntityKind,
  type Link,
  type Tag,
} from '@/core/project/entities.ts';
import { EQUAL } from '@/core/project/confirm.ts';
import { atOnce, inSlices } from '@/core/inSlices.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { isPlainTag } from '@/core/project/plainTag.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { PointSpec } from '@/drivers/contract.ts';
import { EffectiveSignals, pointOf, type EffectiveSignal } from '@/drivers/effective.ts';
import { referencesOf } from './references.ts';

export interface PlannedChange {
  readonly kind: EntityKind;
  readonly id: string;
  readonly before: AnyEntity | null;
  readonly after: AnyEntity | null;
}

/** The schemas, refusing fields that there are not; made once, since making one costs more than using it. */
const EXACT_SCHEMAS = Object.fromEntries(
  ENTITY_KINDS.map((kind) => [kind, ENTITY_SCHEMAS[kind].noUnknown(true, `A ${kind} has no such field.`)]),
) as Record<EntityKind, AnyObjectSchema>;

type Tables = { [K in EntityKind]: Map<string, Entities[K]> };

export class ProjectModel {
  readonly #tables: Tables = {
    project: new Map(),
    link: new Map(),
    device: new Map(),
    source: new Map(),
    tag: new Map(),
    scale: new Map(),
    panel: new Map(),
    page: new Map(),
    element: new Map(),
  };
  readonly #tagByName = new Map<string, string>();
  readonly #tagsByDevice = new Map<string, Set<string>>();
  readonly #elementsByTag = new Map<string, Set<string>>();
  /** Tags whose writes are confirmed by a tag. */
  readonly #followers = new Map<string, Set<string>>();
  readonly #effective = new EffectiveSignals();

  all<K extends EntityKind>(kind: K): readonly Entities[K][] {
    return [...this.#tables[kind].values()];
  }

  get<K extends EntityKind>(kind: K, id: string): Entities[K] | null {
    return this.#tables[kind].get(id) ?? null;
  }

  tagNamed(name: string): Tag | null {
    const id = this.#tagByName.get(nameKey(name));
    return id === undefined ? null : this.get('tag', id);
  }

  tagsOf(deviceId: string): readonly Tag[] {
    return this.tagIdsOf(deviceId).flatMap((id) => this.get('tag', id) ?? []);
  }

  /** Costs nothing to speak of, also where there are a hundred thousand. */
  tagIdsOf(deviceId: string): readonly string[] {
    return [...(this.#tagsByDevice.get(deviceId) ?? [])];
  }

  elementsOf(tagId: string): readonly Element[] {
    return [...(this.#elementsByTag.get(tagId) ?? [])].flatMap((id) => this.get('element', id) ?? []);
  }

  /** Whether the write of another tag is confirmed by this one. */
  isFollowed(tagId: string): boolean {
    return (this.#followers.get(tagId)?.size ?? 0) > 0;
  }

  /** The tag's settings with its device's and link's filled in, or what does not fit together. */
  effective(tagId: string): Result<EffectiveSignal> {
    const tag = this.get('tag', tagId);
    const device = tag && this.get('device', tag.deviceId);
    const link = device && this.get('link', device.linkId);
    if (!tag || !device || !link) return fail('gone', 'The tag, its device or its link is no longer there.');
    return this.#effective.of({ tag, device, link, scale: this.get('scale', tag.id) });
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
    for (const tag of after.values()) if (tag) names.add(nameKey(tag.name));
    const devices = new Set<string>();
    for (const { kind, entity } of brought) {
      yield;
      if (this.get(kind, entity.id) !== null)
        return { code: 'id', message: `There is a ${kind} with this id already.`, remedy: 'Read the list again.' };
      if (kind !== 'tag') continue;
      const { name, deviceId } = entity as Tag;
      devices.add(deviceId);
      const key = nameKey(name);
      const other = this.#tagByName.get(key);
      const isTaken = other !== undefined && (after.has(other) ? nameKey(after.get(other)?.name ?? '') === key : true);
      if (isTaken || names.has(key))
        return {
          code: 'name-taken',
          message: `A tag named “${name}” is there already.`,
          remedy: 'Read the list again.',
          place: `tag ${entity.id} name`,
        };
      names.add(key);
    }
    for (const id of devices)
      if (this.get('device', id) === null)
        return {
          code: 'reference',
          message: 'The device it belongs to is not there (any more).',
          remedy: 'Reload, and try again.',
          place: 'deviceId',
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
      const checked = validate(change, merged);
      if (!checked.ok) return checked;
      put(change.kind, change.id, checked.value);
    }
    for (const [key, { kind, entity }] of after) {
      if (entity === null) continue;
      yield;
      const problem = this.#checkReferences(kind, entity, look) ?? this.#checkFits(kind, entity, look);
      if (problem) return { ok: false, problem: { ...problem, place: `${key}${problem.place ? ` ${problem.place}` : ''}` } };
    }
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
    switch (kind) {
      case 'link':
        for (const { id: deviceId } of this.all('device')) if (look('device', deviceId)?.linkId === id) remove('device', deviceId);
        break;
      case 'device':
        for (const { id: tagId } of this.tagsOf(id)) if (look('tag', tagId)?.deviceId === id) remove('tag', tagId);
        for (const { id: sourceId } of this.all('source')) if (look('source', sourceId)?.deviceId === id) remove('source', sourceId);
        break;
      case 'tag':
        remove('scale', id);
        for (const element of this.elementsOf(id)) {
          const current = look('element', element.id);
          if (current?.tagId === id) put('element', element.id, { ...current, tagId: null });
        }
        for (const { id: deviceId } of this.all('device')) {
          const device = look('device', deviceId);
          if (!device) continue;
          const named = (['identityTagId', 'lifeTagId', 'ownLifeTagId'] as const).filter((field) => device[field] === id);
          if (named.length > 0) put('device', deviceId, { ...device, ...Object.fromEntries(named.map((field) => [field, null])) });
        }
        for (const follower of this.#followersOf(id)) {
          const current = look('tag', follower);
          if (current?.confirm.kind === 'follows' && current.confirm.tagId === id) put('tag', follower, { ...current, confirm: EQUAL });
        }
        break;
      case 'panel':
        for (const { id: pageId } of this.all('page')) if (look('page', pageId)?.panelId === id) remove('page', pageId);
        break;
      case 'page':
        for (const { id: elementId } of this.all('element')) if (look('element', elementId)?.pageId === id) remove('element', elementId);
        break;
      case 'project':
      case 'source':
      case 'scale':
      case 'element':
        break;
    }
  }

  #checkReferences(kind: EntityKind, entity: AnyEntity, look: <K extends EntityKind>(kind: K, id: string) => AnyEntity | null): Problem | null {
    const wanted = referencesOf(kind, entity);
    for (const [target, id, field] of wanted)
      if (look(target, id) === null)
        return { code: 'reference', message: `The ${target} it belongs to is not there (any more).`, remedy: 'Reload, and try again.', place: field };
    return null;
  }

  #followersOf(tagId: string): readonly string[] {
    return [...(this.#followers.get(tagId) ?? [])];
  }

  /** Rules that need the driver: settings of links and devices, address, type and order of tags. */
  #checkFits(kind: EntityKind, entity: AnyEntity, look: <K extends EntityKind>(kind: K, id: string) => Entities[K] | null): Problem | null {
    if (kind === 'link') {
      const link = entity as Link;
      const driver = describeDriver(link.driver);
      if (!driver) return { code: 'driver', message: `No driver “${link.driver}” is known here.`, place: 'driver' };
      return schemaProblem(() => validateFilled(driver.linkSettings, link.settings), 'settings.');
    }
    if (kind === 'device') {
      const device = entity as Device;
      const twin = this.all('device').find((d) => d.id !== device.id && isTwin(look('device', d.id), device));
      if (twin)
        return { code: 'name-taken', message: `The link has a device “${device.name}” already.`, remedy: 'Choose another name.', place: 'name' };
      const driver = describeDriver(look('link', device.linkId)?.driver ?? '');
      if (!driver) return null;
      for (const field of ['identityTagId', 'lifeTagId', 'ownLifeTagId'] as const) {
        const tagId = device[field];
        if (tagId !== null && look('tag', tagId)?.deviceId !== device.id)
          return { code: 'reference', message: 'This must be a tag of the device itself.', place: field };
      }
      return (
        schemaProblem(() => validateFilled(driver.deviceSettings, device.settings), 'settings.') ??
        schemaProblem(() => validateFilled(driver.dialectSettings, device.dialect), 'dialect.')
      );
    }
    if (kind === 'tag') {
      const tag = entity as Tag;
      if (tag.address === '') return null;
      const device = look('device', tag.deviceId);
      const link = device && look('link', device.linkId);
      if (!device || !link) return null;
      // Kept: what is planned here is what is applied, and then it is known already.
      const effective = this.#effective.of({ tag, device, link, scale: look('scale', tag.id) });
      if (!effective.ok) return effective.problem;
    }
    return null;
  }

  *#nameTwice(
    after: ReadonlyMap<string, { kind: EntityKind; entity: AnyEntity | null }>,
    look: <K extends EntityKind>(kind: K, id: string) => Entities[K] | null,
  ): Generator<void, Problem | null> {
    const planned = new Map<string, string>();
    for (const { kind, entity } of after.values()) {
      yield;
      if (kind !== 'tag' || entity === null) continue;
      const key = nameKey((entity as Tag).name);
      const other = planned.get(key) ?? this.#tagByName.get(key);
      if (other !== undefined && other !== entity.id && nameKey(look('tag', other)?.name ?? '') === key)
        return {
          code: 'name-taken',
          message: `A tag named “${(entity as Tag).name}” is there already.`,
          remedy: 'Choose another name.',
          place: `tag ${entity.id} name`,
        };
      planned.set(key, entity.id);
    }
    return null;
  }

  #index(kind: EntityKind, entity: AnyEntity): void {
    if (kind === 'tag') {
      const tag = entity as Tag;
      this.#tagByName.set(nameKey(tag.name), tag.id);
      addTo(this.#tagsByDevice, tag.deviceId, tag.id);
      if (tag.confirm.kind === 'follows') addTo(this.#followers, tag.confirm.tagId, tag.id);
    }
    if (kind === 'element') {
      const { tagId } = entity as Element;
      if (tagId !== null) addTo(this.#elementsByTag, tagId, entity.id);
    }
  }

  #unindex(kind: EntityKind, id: string): void {
    if (kind === 'tag') {
      const tag = this.get('tag', id);
      if (!tag) return;
      if (this.#tagByName.get(nameKey(tag.name)) === id) this.#tagByName.delete(nameKey(tag.name));
      this.#tagsByDevice.get(tag.deviceId)?.delete(id);
      if (tag.confirm.kind === 'follows') this.#followers.get(tag.confirm.tagId)?.delete(id);
    }
    if (kind === 'element') {
      const tagId = this.get('element', id)?.tagId;
      if (tagId) this.#elementsByTag.get(tagId)?.delete(id);
    }
  }
}

/** The stored form of an entity: known fields only, settings kept as they came. */
function validate(change: Change, merged: Record<string, unknown>): Result<AnyEntity> {
  if (change.kind === 'tag' && isPlainTag(merged)) return ok(merged as unknown as AnyEntity);
  const problem = schemaProblem(() => EXACT_SCHEMAS[change.kind].validateSync(merged, { strict: true }));
  return problem ? { ok: false, problem: { ...problem, place: place(change, problem.place ?? '') } } : ok(merged as unknown as AnyEntity);
}

/** What is not given has its default; what is given is not coerced. */
function validateFilled(schema: AnyObjectSchema, settings: Readonly<Record<string, unknown>>): unknown {
  return schema.validateSync({ ...(schema.getDefault() as Record<string, unknown>), ...settings }, { strict: true });
}

function schemaProblem(check: () => unknown, prefix = ''): Problem | null {
  try {
    check();
    return null;
  } catch (error) {
    if (error instanceof ValidationError) return { code: 'invalid', message: error.message, place: `${prefix}${error.path ?? ''}` };
    throw error;
  }
}

/** Two devices of one link whose names look the same. */
function isTwin(other: Device | null, device: Device): boolean {
  return other !== null && other.linkId === device.linkId && nameKey(other.name) === nameKey(device.name);
}

/** The sender saw something else than what is there now: somebody changed it meanwhile. */
function staleField(change: Change, current: AnyEntity | null): Problem | null {
  for (const [field, was] of Object.entries(change.was ?? {})) {
    const now = (current as Record<string, unknown> | null)?.[field];
    if (sameJson(now, was)) continue;
    return {
      code: 'changed-elsewhere',
      message:
        current === null
          ? `The ${change.kind} was removed elsewhere meanwhile.`
          : `The ${change.kind} was changed elsewhere meanwhile: ${field} is ${JSON.stringify(now)?.slice(0, 80) ?? 'empty'} now.`,
      remedy: 'Nothing was overwritten. Look at what is there now, and change it again if you still want to.',
      place: place(change, field),
    };
  }
  return null;
}

function place(change: Change, field: string): string {
  return `${change.kind} ${change.id}${field ? ` ${field}` : ''}`;
}

function gone(change: Change): Result<never> {
  return fail('gone', `The ${change.kind} is not there (any more).`, 'Reload, and try again.', place(change, ''));
}

function addTo(index: Map<string, Set<string>>, key: string, id: string): void {
  const set = index.get(key);
  if (set) set.add(id);
  else index.set(key, new Set([id]));
}
