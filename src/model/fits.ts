/** Whether an entity fits what is around it: settings its driver, a tag its device, a group its tree. Its own schema was asked before. */
import { ValidationError } from 'yup';
import type { SettingsSchema } from '@/core/manifest/settingsSchema.ts';
import { filledIn, yupOf } from '@/core/manifest/yupOf.ts';
import type { AnyEntity, Block, CopyRule, Device, Entities, EntityKind, Group, Link, Member, Tag, TagScale } from '@/core/project/entities.ts';
import { DEEPEST_GROUP } from '@/core/project/inherited.ts';
import { groupsAbove } from '@/core/project/tagPath.ts';
import { deviceIdOf, pointIn } from '@/core/project/tagSource.ts';
import type { Problem, Result } from '@/core/result.ts';
import { isNumberType } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { loopProblem } from '@/mapping/copies/copyLoop.ts';
import { copyProblem, type CopyProject } from '@/mapping/copies/copyPairs.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';

/** An entity as it would stand after what is planned. */
export type Look = <K extends EntityKind>(kind: K, id: string) => Entities[K] | null;

export interface Around {
  readonly look: Look;
  /** For copy rules alone. */
  readonly copies: () => CopyProject;
  readonly groupBefore: (id: string) => Group | null;
  /** Who has a name at the top of all paths. */
  readonly named: (kind: 'device' | 'group', name: string) => string | undefined;
  readonly effective: (tag: Tag) => Result<EffectiveSignal>;
}

export function fitProblem(kind: EntityKind, entity: AnyEntity, around: Around): Problem | null {
  switch (kind) {
    case 'link':
      return linkProblem(entity as Link);
    case 'device':
      return deviceProblem(entity as Device, around);
    case 'group':
      return groupProblem(entity as Group, around);
    case 'tag':
      return tagProblem(entity as Tag, around);
    case 'block':
      return blockProblem(entity as Block, around);
    case 'member':
      return memberProblem(entity as Member, around);
    case 'scale':
      return scaleProblem(entity as TagScale, around);
    case 'copyRule':
      return copyRuleProblem(entity as CopyRule, around);
    default:
      return null;
  }
}

function linkProblem(link: Link): Problem | null {
  const driver = describeDriver(link.driver);
  if (!driver) return { code: 'driver', message: `No driver “${link.driver}” is known here.`, place: 'driver' };
  return settingsProblem(driver.link, link.settings, 'settings.');
}

function deviceProblem(device: Device, { look, named }: Around): Problem | null {
  const group = look('group', named('group', device.name) ?? '');
  if (group?.name.toLowerCase() === device.name.toLowerCase()) return pathTaken(device.name, 'group of the project');
  const driver = describeDriver(look('link', device.linkId)?.driver ?? '');
  if (!driver) return null;
  for (const field of ['identityTagId', 'lifeTagId', 'ownLifeTagId'] as const) {
    const tagId = device[field];
    const tag = tagId === null ? null : look('tag', tagId);
    if (tagId !== null && (tag === null || deviceIdOf(tag) !== device.id))
      return { code: 'reference', message: 'This must be a tag of the device itself.', place: field };
  }
  return settingsProblem(driver.device, device.settings, 'settings.') ?? settingsProblem(driver.dialect, device.dialect, 'dialect.');
}

function blockProblem({ deviceId, structureId }: Block, { look }: Around): Problem | null {
  return look('structure', structureId)?.deviceId === deviceId
    ? null
    : { code: 'reference', message: 'Its structure is one of another device.', place: 'structureId' };
}

function memberProblem({ id, blockId }: Member, { look }: Around): Problem | null {
  const tag = look('tag', id);
  return tag && deviceIdOf(tag) === look('block', blockId)?.deviceId
    ? null
    : { code: 'reference', message: 'A member of a block is a tag of the same device.', place: 'blockId' };
}

/** A shared scale is for numbers: what is given to a state or a text by mistake is refused. */
function scaleProblem({ id, sharedId }: TagScale, { look }: Around): Problem | null {
  const tag = sharedId === null ? null : look('tag', id);
  return tag && !isNumberType(tag.type)
    ? { code: 'scale', message: `${tag.name} is a ${tag.type}, and only numbers are scaled.`, remedy: 'Leave it out.', place: 'sharedId' }
    : null;
}

function copyRuleProblem(rule: CopyRule, { copies }: Around): Problem | null {
  if (!rule.isOn) return null;
  const project = copies();
  return copyProblem(rule, project) ?? loopProblem(rule, project);
}

function tagProblem(tag: Tag, { look, effective }: Around): Problem | null {
  const deviceId = deviceIdOf(tag);
  const group = groupsAbove(tag.groupId, { group: (id) => look('group', id) })[0];
  if (group && group.deviceId !== null && deviceId !== null && group.deviceId !== deviceId)
    return {
      code: 'group',
      message: `The group ${group.name} belongs to another device than the tag.`,
      remedy: 'Choose a group of its device.',
      place: 'groupId',
    };
  const enumeration = look('enumeration', tag.enumerationId ?? '');
  if (enumeration && deviceId !== null && enumeration.deviceId !== deviceId)
    return { code: 'reference', message: 'Its enumeration is one of another device.', place: 'enumerationId' };
  if (pointIn(tag)?.address === '') return null;
  const device = look('device', deviceId ?? '');
  const link = device && look('link', device.linkId);
  if (deviceId !== null && (!device || !link)) return null;
  const signal = effective(tag);
  if (!signal.ok) return signal.problem;
  const { driver, settings } = signal.value;
  return driver && settingsProblem(driver.point, settings, 'source.settings.');
}

/** A group stays with its device, stands in none of its own, and not too deep. */
function groupProblem(group: Group, { look, groupBefore, named }: Around): Problem | null {
  const before = groupBefore(group.id);
  if (before && before.deviceId !== group.deviceId)
    return { code: 'group', message: 'A group stays with its device.', remedy: 'Make a group there, and move the tags.', place: 'deviceId' };
  const above = groupsAbove(group.parentId, { group: (id) => look('group', id) });
  if (above.some(({ id }) => id === group.id))
    return { code: 'group', message: `${group.name} cannot stand in itself.`, remedy: 'Choose a group outside it.', place: 'parentId' };
  if (above.length >= DEEPEST_GROUP)
    return { code: 'group', message: `Groups stand at most ${DEEPEST_GROUP} deep.`, remedy: 'Choose a group further up.', place: 'parentId' };
  const parent = above.at(-1);
  if (parent && parent.deviceId !== group.deviceId)
    return { code: 'group', message: `${parent.name} belongs to another device.`, remedy: 'Choose a group of the same device.', place: 'parentId' };
  if (parent || group.deviceId !== null) return null;
  const device = look('device', named('device', group.name) ?? '');
  return device?.name.toLowerCase() === group.name.toLowerCase() ? pathTaken(group.name, 'device') : null;
}

/** Both would begin the same paths. */
function pathTaken(name: string, what: string): Problem {
  return { code: 'name-taken', message: `A ${what} is named “${name}” already.`, remedy: 'Choose another name.', place: 'name' };
}

/** What is not given has its default; what is given is not coerced. */
function settingsProblem(schema: SettingsSchema, settings: Readonly<Record<string, unknown>>, prefix: string): Problem | null {
  // Most points have none, and there may be a hundred thousand.
  if (Object.keys(schema.properties).length === 0 && Object.keys(settings).length === 0) return null;
  return schemaProblem(() => yupOf(schema).validateSync(filledIn(schema, settings), { strict: true }), prefix);
}

/** What a schema refuses, as a problem with its place. */
export function schemaProblem(check: () => unknown, prefix = ''): Problem | null {
  try {
    check();
    return null;
  } catch (error) {
    if (error instanceof ValidationError) return { code: 'invalid', message: error.message, place: `${prefix}${error.path ?? ''}` };
    throw error;
  }
}
