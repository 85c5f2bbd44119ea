/** The full name of a tag: device, groups and name, by which it is told from all others: `KILN.Bed.temp_out`. */
import type { Device, Group, Tag } from './entities.ts';
import { DEEPEST_GROUP } from './inherited.ts';
import { nameKey } from './nameKey.ts';
import { deviceIdOf } from './tagSource.ts';

/** The project that the tag stands in. */
export interface PathContext {
  group(id: string): Group | null;
  device(id: string): Device | null;
}

/** The groups that a tag or group stands in, the outermost first. */
export function groupsAbove(groupId: string | null, context: Pick<PathContext, 'group'>): readonly Group[] {
  const above: Group[] = [];
  for (let id = groupId; id !== null && above.length <= DEEPEST_GROUP;) {
    const found = context.group(id);
    if (!found) break;
    above.unshift(found);
    id = found.parentId;
  }
  return above;
}

/** The names of the groups that a tag stands in, as lists write them: `Zone 1/Bed`; empty for none. */
export function groupText(groupId: string | null, context: Pick<PathContext, 'group'>): string {
  return groupsAbove(groupId, context)
    .map(({ name }) => name)
    .join('/');
}

/** The inverse: the groups that a text of a list names. */
export function groupParts(text: string): readonly string[] {
  return text
    .split('/')
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

/** What two tags of one device have in common where only one of them may have its name. */
export function siblingName(group: string, name: string): string {
  return `${groupParts(group).map(nameKey).join('/')}/${nameKey(name)}`;
}

export function tagPath(tag: Tag, context: PathContext): string {
  return tagPathParts(tag, context).map(pathPart).join('.');
}

/** The device that its path begins with; null where it begins with none: a group of the project may hold tags of any device. */
export function pathDevice(tag: Tag, context: Pick<PathContext, 'group'>): string | null {
  const [outermost] = groupsAbove(tag.groupId, context);
  return outermost ? outermost.deviceId : deviceIdOf(tag);
}

/** The names that a path is made of: the device, the groups from the outermost on, the tag. */
export function tagPathParts(tag: Tag, context: PathContext): readonly string[] {
  const groups = groupsAbove(tag.groupId, context);
  const deviceId = pathDevice(tag, context);
  const device = deviceId === null ? null : context.device(deviceId);
  return [...(device ? [device.name] : []), ...groups.map(({ name }) => name), tag.name];
}

/** What has a name among others: right under a device or group, or at the top where `among` is empty. */
export type Named = (kind: 'device' | 'group' | 'tag', among: string, name: string) => string | undefined;

/** The id of the tag that a path leads to, null where it leads nowhere. */
export function tagAt(parts: readonly string[], named: Named): string | null {
  let among = '';
  for (const part of parts.slice(0, -1)) {
    const next = (among === '' ? named('device', '', part) : undefined) ?? named('group', among, part);
    if (next === undefined) return null;
    among = next;
  }
  return named('tag', among, parts.at(-1) ?? '') ?? null;
}

/** A name that holds a dot or a quotation mark stands in quotation marks, its own ones doubled. */
function pathPart(name: string): string {
  return /[."]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name;
}
