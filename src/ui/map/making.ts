/** What is made of cells: values of a type, arrays of one, or structures; and the changes that make them. */
import { v7 as uuid } from 'uuid';
import { seriesAfter } from '@/core/grid/countOn.ts';
import type { Change } from '@/core/project/command.ts';
import type { Device, Structure, StructureMember } from '@/core/project/entities.ts';
import { structurePlaces } from '@/core/project/structurePlaces.ts';
import { leavesOf, type StructuresNamed } from '@/core/project/structureTree.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { formatDataType, parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { DriverDescription, MemoryArea } from '@/drivers/contract.ts';
import { blockAddresses, layoutOn } from '@/mapping/blockAddresses.ts';

/** What one of the things to be made is. */
export type Made =
  | { readonly kind: 'value'; readonly type: DataType; readonly bits: number }
  /** One that is there, or an array, which gets a structure of its own. */
  | { readonly kind: 'structure'; readonly structure: Structure; readonly isNew: boolean; readonly bits: number };

export interface MakingOn {
  readonly device: Device;
  readonly driver: DriverDescription;
  readonly area: MemoryArea;
  readonly structures: readonly Structure[];
}

const LONGEST_ARRAY = 1000;
const LONGEST_NAME = 80;

export function structuresNamedIn(structures: readonly Structure[]): StructuresNamed {
  const byName = new Map(structures.map((structure) => [structure.name.toLowerCase(), structure]));
  return (name) => byName.get(name.toLowerCase()) ?? null;
}

/** Reads `REAL`, `INT[8]`, or the name of a structure of the device. */
export function whatIsMade(text: string, { device, driver, area, structures }: MakingOn): Result<Made> {
  const named = structuresNamedIn(structures);
  const own = named(text.trim());
  const array = /^(.*\S)\s*\[(\d{1,4})\]$/.exec(text.trim());
  const structure = own ?? (array ? arrayOf(array[1] ?? '', Number(array[2]), device.id, named) : null);
  if (structure && 'ok' in structure) return structure;
  if (structure) {
    if (area.cellBits === 1) return fail('area', 'Structures lie in whole words, not among single bits.', 'Choose another area.');
    const { bits } = structurePlaces(structure, named, layoutOn(driver, device.dialect));
    return bits === null
      ? fail('structure-size', 'Nobody knows how long this structure is: it holds one that is not known.', 'Complete it under Types.')
      : ok({ kind: 'structure', structure, isNew: own === null, bits });
  }
  const type = parseDataType(text);
  return type.ok ? ok({ kind: 'value', type: type.value, bits: type.value.kind === 'boolean' ? 1 : type.value.bytes * 8 }) : type;
}

/** A structure with one member, which is an array: what is said of it holds for all its elements. */
function arrayOf(of: string, length: number, deviceId: string, named: StructuresNamed): Structure | Result<never> {
  const inner = named(of);
  const type = inner ? null : parseDataType(of);
  if (type && !type.ok) return type;
  if (length < 1 || length > LONGEST_ARRAY) return fail('array-length', `An array has 1 to ${LONGEST_ARRAY} elements here.`);
  const typeText = type ? formatDataType(type.value) : '';
  const member = { ...NO_SETTINGS, name: 'Item', type: typeText, of: inner?.name ?? '', length };
  return { id: uuid(), name: `${inner?.name ?? typeText}[${length}]`, deviceId, members: [member] };
}

export const NO_SETTINGS: Omit<StructureMember, 'name' | 'type'> = {
  of: '',
  length: null,
  unit: '',
  decimals: null,
  rangeLow: null,
  rangeHigh: null,
  comment: '',
  names: [],
  access: null,
};

/** Names that count on from the first. */
export function namesFrom(first: string, count: number): readonly string[] {
  return [first, ...seriesAfter([first], count - 1).map((next, i) => next ?? `${first}_${i + 2}`)].slice(0, count);
}

/** @param addresses where each begins, as the device writes it */
export function makingChanges(made: Made, names: readonly string[], addresses: readonly string[], on: MakingOn): Result<readonly Change[]> {
  const { device, driver, structures } = on;
  if (made.kind === 'value') {
    const type = formatDataType(made.type);
    return ok(names.map((name, i) => newTag(name, { type }, newPoint(device.id, addresses[i] ?? ''))));
  }
  const { structure, isNew } = made;
  const named = structuresNamedIn([...structures, structure]);
  const changes: Change[] = isNew
    ? [{ kind: 'structure', id: structure.id, set: { name: structure.name, deviceId: device.id, members: structure.members } }]
    : [];
  for (const [i, name] of names.entries()) {
    const blockId = uuid();
    const address = addresses[i] ?? '';
    changes.push({ kind: 'block', id: blockId, set: { name, deviceId: device.id, structureId: structure.id, address } });
    const places = blockAddresses(address, structure, named, { driver, dialect: device.dialect });
    for (const [path, member] of leavesOf(structure, named)) {
      const place = places.get(path.toLowerCase());
      const tagName = `${name}.${path}`;
      if (place === undefined)
        return fail(
          'address-split',
          `${tagName} begins where the device has no address.`,
          'Check how the device lays structures out, in its protocol options.',
        );
      if (tagName.length > LONGEST_NAME)
        return fail('name-length', `“${tagName.slice(0, 40)} …” is longer than ${LONGEST_NAME} characters.`, 'Choose a shorter name.');
      const { type, unit, decimals, rangeLow, rangeHigh, comment, names: valueNames, access } = member;
      const tag = newTag(tagName, { type, unit, decimals, rangeLow, rangeHigh, comment, names: valueNames, access }, newPoint(device.id, place));
      changes.push(tag, { kind: 'member', id: tag.id, set: { blockId, path } });
    }
  }
  return ok(changes);
}

function newTag(name: string, fields: Readonly<Record<string, unknown>>, source: object): Change {
  const plain = { unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', access: 'read', listId: '' };
  return { kind: 'tag', id: uuid(), set: { ...plain, ...fields, name, source } };
}

/** Reads members as they are typed or pasted, one a line: name, type, unit. @returns the problem of the first line that is none */
export function membersIn(text: string, structures: readonly Structure[]): Result<readonly StructureMember[]> {
  const named = structuresNamedIn(structures);
  const members: StructureMember[] = [];
  const lines = text.split(/\r?\n/).map((line) => line.trim());
  for (const [i, line] of lines.entries()) {
    if (line === '') continue;
    const member = memberIn(line, named);
    if (!member.ok) return { ok: false, problem: { ...member.problem, message: `Line ${i + 1}: ${member.problem.message}` } };
    if (members.some(({ name }) => name.toLowerCase() === member.value.name.toLowerCase()))
      return fail('name-taken', `Line ${i + 1}: there are two members ${member.value.name}.`, 'Choose another name.');
    members.push(member.value);
  }
  return members.length > 0 ? ok(members) : fail('no-members', 'A structure has at least one member.', 'Write one a line, such as: gap UINT mm');
}

/** `gap UINT mm`, `Jaw[4] REAL kN`, `Inner Stand`; between them tabs or blanks; a type may be of several words behind a tab. */
export function memberIn(line: string, named: StructuresNamed): Result<StructureMember> {
  const cells = line.includes('\t') ? line.split('\t').map((cell) => cell.trim()) : line.split(/\s*:\s*|\s+/);
  const [nameText = '', typeText = '', unit = ''] = cells;
  const [, name = nameText, length] = /^(.*)\[(\d{1,4})\]$/.exec(nameText) ?? [];
  if (!/^[\p{L}_][\p{L}\p{N}_]*$/u.test(name)) return fail('name', `“${name.slice(0, 40)}” is no name of a member.`, 'Use letters, digits and _.');
  if (typeText === '') return fail('type', `${name} has no type.`, `Write it behind the name: ${name} INT`);
  const array = length === undefined ? null : Number(length);
  const inner = named(typeText);
  if (inner) return ok({ ...NO_SETTINGS, name, type: '', of: inner.name, length: array });
  const type = parseDataType(typeText);
  return type.ok ? ok({ ...NO_SETTINGS, name, type: formatDataType(type.value), length: array, unit }) : type;
}
