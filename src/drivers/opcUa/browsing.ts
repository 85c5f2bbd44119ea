/** The variables of a server, one level at a time, with all that it tells of each. */
import { addressOfNode, formatNodeAddress, nodeIdIn, parseNodeAddress } from '@/core/opcua/nodeId.ts';
import { typeOfBuiltIn } from '@/core/opcua/dataTypes.ts';
import { elementsOf, MOST_DEPTH, MOST_ELEMENTS } from '@/core/opcua/elements.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { checkNames, formatNames, type ValueNames } from '@/core/value/valueNames.ts';
import type { BrowsedNode } from '../contract.ts';
import type { Connection } from './connection.ts';
import type { UaValue } from './library.ts';
import { faultOf } from './values.ts';

/** What stands between the steps of a path, as in the names of other lists. */
const STEP = '.';
/** Nodes that one level may have before it is called endless. */
const MOST_OF_A_LEVEL = 200_000;

const OBJECTS = 'i=85';
const INT32 = 'ns=0;i=6';

interface Place {
  readonly nodeId: string;
  /** The nodes on the way, so that one that leads back to itself is not gone through again. */
  readonly way: ReadonlySet<string>;
}

/** Walks a server. Paths are names from the root on; where they lead is kept as long as the browser is. */
export class Browser {
  readonly #connection: Connection;
  readonly #places = new Map<string, Place>();
  readonly #perRead: number;

  constructor(connection: Connection, root: string, perRead: number) {
    this.#connection = connection;
    this.#perRead = Math.min(perRead, connection.limits.read);
    const address = parseNodeAddress(root);
    const nodeId = (address.ok ? nodeIdIn(address.value, connection.namespaces) : null) ?? OBJECTS;
    this.#places.set('', { nodeId, way: new Set([nodeId]) });
  }

  async under(path: string): Promise<Result<readonly BrowsedNode[]>> {
    const place = this.#places.get(path);
    if (!place) return fail('gone', `There is no ${path} (any more).`, 'Browse from the start.');
    try {
      return ok(await this.#under(path, place));
    } catch (error) {
      return { ok: false, problem: faultOf(error).problem };
    }
  }

  async #under(path: string, { nodeId, way }: Place): Promise<readonly BrowsedNode[]> {
    const { ua, namespaces } = this.#connection;
    const found = (await this.#references(nodeId)).filter(({ nodeId: id }) => {
      const text = id.toString();
      // What the standard puts under Objects is no part of the process; a node that leads back is not gone through again.
      const isOwnBusiness = nodeId === OBJECTS && id.namespace === 0;
      return !isOwnBusiness && !way.has(text) && !way.has(text.replace(/^ns=0;/, ''));
    });
    const names = new Set<string>();
    const nodes = found.map((reference) => {
      const id = reference.nodeId.toString().replace(/^ns=0;/, '');
      const own = (reference.browseName.name ?? id).replaceAll(STEP, '_');
      const name = names.has(own.toLowerCase()) ? `${own} (${id})` : own;
      names.add(name.toLowerCase());
      const at = path === '' ? name : `${path}${STEP}${name}`;
      this.#places.set(at, { nodeId: id, way: new Set([...way, id]) });
      return {
        at,
        name,
        id,
        isVariable: Number(reference.nodeClass) === Number(ua.NodeClass.Variable),
        description: reference.displayName.text ?? '',
      };
    });
    const variables = await this.#told(nodes.filter((n) => n.isVariable).map((n) => n.id));
    return nodes.flatMap(({ at, id, isVariable }): BrowsedNode[] => {
      const canonical = formatNodeAddress(addressOfNode(id, namespaces));
      const variable = isVariable ? variables.get(id) : undefined;
      const told = variable?.told ?? {};
      if (!variable) return [{ path: at, canonical, type: null, hasChildren: !isVariable, told }];
      const places = variable.elements ?? [''];
      if (!variable.structure)
        return places.map((element) => ({
          path: `${at}${element}`,
          canonical: element === '' ? canonical : `${canonical}#${element}`,
          type: variable.type,
          hasChildren: false,
          ...(variable.enumeration ? { enumeration: variable.enumeration } : {}),
          told,
        }));
      const { structure } = variable;
      return places.flatMap((element) =>
        structure.map(({ path: member, type, within }) => ({
          path: `${at}${element}.${member}`,
          canonical: `${canonical}#${element}.${member}`,
          type,
          hasChildren: false,
          within,
          // A member is written only with the whole.
          told: { ...told, access: 'R' },
        })),
      );
    });
  }

  async #references(nodeId: string) {
    const { ua, session } = this.#connection;
    const first = await session.browse({
      nodeId,
      referenceTypeId: 'HierarchicalReferences',
      includeSubtypes: true,
      browseDirection: ua.BrowseDirection.Forward,
      nodeClassMask: ua.NodeClassMask.Object | ua.NodeClassMask.Variable,
      resultMask: 63,
    });
    if (first.statusCode.isNot(ua.StatusCodes.Good)) throw new Error(first.statusCode.name);
    const all = [...(first.references ?? [])];
    for (let next = first.continuationPoint; next && next.length > 0 && all.length < MOST_OF_A_LEVEL;) {
      const more = await session.browseNext(next, false);
      all.push(...(more.references ?? []));
      next = more.continuationPoint;
    }
    return all;
  }

  /** Type, access, description, unit and range of variables. */
  async #told(ids: readonly string[]): Promise<ReadonlyMap<string, Told>> {
    const { ua } = this.#connection;
    const { DataType, ValueRank, AccessLevel, UserAccessLevel, Description, ArrayDimensions } = ua.AttributeIds;
    const asked = [DataType, ValueRank, AccessLevel, UserAccessLevel, Description, ArrayDimensions];
    const [values, properties] = await Promise.all([
      this.#read(ids.flatMap((nodeId) => asked.map((attributeId) => ({ nodeId, attributeId })))),
      this.#properties(ids),
    ]);
    const held = await this.#heldTypes(ids, values, asked.length);
    const found = new Map<string, Told>();
    for (const [i, id] of ids.entries()) {
      const [dataType, rank, level, userLevel, description, dimensions] = values.slice(i * asked.length, (i + 1) * asked.length);
      const builtIn = await this.#builtIn(dataType);
      const structure = builtIn === 'ExtensionObject' ? await this.#leaves(String(dataType?.value.value), [], '') : null;
      const isArray = Number(rank?.value.value ?? -1) >= 0;
      const isWritable = (Number(userLevel?.value.value ?? level?.value.value ?? 0) & 2) !== 0;
      const text = textOf(description?.value.value);
      const named = builtIn === 'Int32' ? await this.#enumeration(dataType) : null;
      found.set(id, {
        type: typeOfBuiltIn(builtIn) ?? typeOfBuiltIn(held.get(id) ?? ''),
        structure,
        elements: isArray ? elementsOf(dimensions?.value.value) : null,
        ...(named ? { enumeration: named.type } : {}),
        told: {
          access: isWritable ? 'RW' : 'R',
          ...(text ? { comment: text } : {}),
          ...(named ? { enumeration: named.names } : {}),
          ...(properties.get(id) ?? {}),
        },
      });
    }
    return found;
  }

  /** Where a node declares no more than a kind of number, what it holds says which one. */
  async #heldTypes(ids: readonly string[], values: readonly UaValue[], width: number): Promise<ReadonlyMap<string, string>> {
    const { ua } = this.#connection;
    const abstract: string[] = [];
    for (const [i, id] of ids.entries()) if (typeOfBuiltIn(await this.#builtIn(values[i * width])) === null) abstract.push(id);
    const found = await this.#read(abstract.map((nodeId) => ({ nodeId, attributeId: ua.AttributeIds.Value })));
    return new Map(abstract.map((id, i) => [id, ua.DataType[found[i]?.value.dataType ?? 0] ?? 'Null']));
  }

  readonly #structures = new Map<string, Promise<Definition | null>>();

  /** The values inside a structure, structures and arrays in it included. */
  async #leaves(typeId: string, around: readonly string[], before: string): Promise<readonly Leaf[]> {
    const definition = await this.#definition(typeId);
    if (!definition || around.length >= MOST_DEPTH) return [];
    const within = [...around, definition.name];
    const leaves: Leaf[] = [];
    for (const { name, typeId: fieldType, builtIn, elements } of definition.fields)
      for (const element of elements) {
        if (leaves.length > MOST_ELEMENTS) return leaves;
        const path = `${before}${name}${element}`;
        const type = typeOfBuiltIn(builtIn);
        if (type !== null) leaves.push({ path, type, within });
        else if (builtIn === 'ExtensionObject') leaves.push(...(await this.#leaves(fieldType, within, `${path}.`)));
      }
    return leaves;
  }

  /** What a server says of a structure (IEC 62541-3, 8.51: StructureDefinition); null where it says nothing. */
  #definition(typeId: string): Promise<Definition | null> {
    const known = this.#structures.get(typeId) ?? this.#readDefinition(typeId);
    this.#structures.set(typeId, known);
    return known;
  }

  async #readDefinition(typeId: string): Promise<Definition | null> {
    const { ua } = this.#connection;
    const { DataTypeDefinition, BrowseName } = ua.AttributeIds;
    const [definition, name] = await this.#read([DataTypeDefinition, BrowseName].map((attributeId) => ({ nodeId: typeId, attributeId })));
    const told: unknown = definition?.value.value;
    const fields: unknown = typeof told === 'object' && told !== null && 'fields' in told ? told.fields : null;
    if (!Array.isArray(fields)) return null;
    const made: Field[] = [];
    for (const field of fields as readonly FieldTold[]) {
      const fieldType = field.dataType.toString();
      const builtIn = await this.#builtIn({ value: { value: field.dataType } } as unknown as UaValue);
      const isArray = field.valueRank >= 0;
      made.push({ name: field.name ?? '', typeId: fieldType, builtIn, elements: isArray ? elementsOf(field.arrayDimensions) : [''] });
    }
    return { name: browseNameIn(name, typeId), fields: made };
  }

  readonly #enumerations = new Map<string, Promise<NamedValues | null>>();

  /** The names of the values of an enumeration (IEC 62541-3, 8.52: EnumDefinition); null where it is none, or has none. */
  #enumeration(dataType: UaValue | undefined): Promise<NamedValues | null> {
    const typeId = String(dataType?.value.value);
    const known = this.#enumerations.get(typeId) ?? (typeId === INT32 ? Promise.resolve(null) : this.#readEnumeration(typeId));
    this.#enumerations.set(typeId, known);
    return known;
  }

  async #readEnumeration(typeId: string): Promise<NamedValues | null> {
    const { DataTypeDefinition, BrowseName } = this.#connection.ua.AttributeIds;
    const [definition, name] = await this.#read([DataTypeDefinition, BrowseName].map((attributeId) => ({ nodeId: typeId, attributeId })));
    const told: unknown = definition?.value.value;
    const fields: unknown = typeof told === 'object' && told !== null && 'fields' in told ? told.fields : null;
    if (!Array.isArray(fields)) return null;
    // Values come as two halves, the high one first.
    const names = namesOf(
      (fields as readonly EnumFieldTold[]).flatMap((field) => (field.value ? [{ value: field.value[1] | 0, name: field.name ?? '' }] : [])),
    );
    return names === '' ? null : { type: browseNameIn(name, typeId), names };
  }

  readonly #builtIns = new Map<string, string>();

  async #builtIn(dataType: UaValue | undefined): Promise<string> {
    const { ua, session } = this.#connection;
    const nodeId: unknown = dataType?.value.value;
    const key = String(nodeId);
    const known = this.#builtIns.get(key);
    if (known !== undefined) return known;
    const found = await ua.findBasicDataType(session, nodeId as Parameters<typeof ua.findBasicDataType>[1]).catch(() => ua.DataType.Null);
    const name = ua.DataType[found] ?? 'Null';
    this.#builtIns.set(key, name);
    return name;
  }

  /** IEC 62541-8: EURange and EngineeringUnits are properties of analogue items. */
  async #properties(ids: readonly string[]): Promise<ReadonlyMap<string, Readonly<Record<string, string | number>>>> {
    const { ua, session } = this.#connection;
    const found = new Map<string, Record<string, string | number>>();
    const atOnce = Math.min(this.#perRead, this.#connection.limits.browse);
    for (let from = 0; from < ids.length; from += atOnce) {
      const part = ids.slice(from, from + atOnce);
      const browsed = await session.browse(
        part.map((nodeId) => ({
          nodeId,
          referenceTypeId: 'HasProperty',
          includeSubtypes: true,
          browseDirection: ua.BrowseDirection.Forward,
          nodeClassMask: ua.NodeClassMask.Variable,
          resultMask: 63,
        })),
      );
      const wanted = browsed.flatMap((result, at) =>
        (result.references ?? []).flatMap((r) => {
          const name = r.browseName.name ?? '';
          return name === 'EURange' || name === 'EngineeringUnits' || name === 'EnumStrings'
            ? [{ of: part[at] ?? '', name, nodeId: r.nodeId.toString() }]
            : [];
        }),
      );
      const values = await this.#read(wanted.map(({ nodeId }) => ({ nodeId, attributeId: ua.AttributeIds.Value })));
      for (const [at, { of, name }] of wanted.entries()) {
        const value: unknown = values[at]?.value.value;
        const own = found.get(of) ?? {};
        found.set(of, own);
        if (name === 'EURange' && isRange(value) && value.low < value.high) Object.assign(own, { low: value.low, high: value.high });
        if (name === 'EngineeringUnits') own.unit = textOf((value as { displayName?: unknown } | null)?.displayName).slice(0, 20);
        if (name === 'EnumStrings' && Array.isArray(value)) own.enumeration = namesOf(value.map((text, at) => ({ value: at, name: textOf(text) })));
      }
    }
    return found;
  }

  async #read(nodes: readonly { readonly nodeId: string; readonly attributeId: number }[]): Promise<readonly UaValue[]> {
    const all: UaValue[] = [];
    for (let from = 0; from < nodes.length; from += this.#perRead)
      all.push(...(await this.#connection.session.read(nodes.slice(from, from + this.#perRead))));
    return all;
  }
}

interface EnumFieldTold {
  readonly name: string | null;
  readonly value?: readonly [high: number, low: number];
}
interface FieldTold {
  readonly name: string | null;
  readonly dataType: { toString(): string };
  readonly valueRank: number;
  readonly arrayDimensions: unknown;
}
interface Field {
  readonly name: string;
  readonly typeId: string;
  readonly builtIn: string;
  /** `[0]`, `[1]` … of an array; one empty text for a single value. */
  readonly elements: readonly string[];
}
interface Definition {
  readonly name: string;
  readonly fields: readonly Field[];
}
/** A value inside a structure. */
interface Leaf {
  readonly path: string;
  readonly type: string;
  readonly within: readonly string[];
}

/** An enumeration: its name, and those of its values as a list writes them. */
interface NamedValues {
  readonly type: string;
  readonly names: string;
}

interface Told {
  readonly type: string | null;
  readonly enumeration?: string;
  /** The values inside, where it is a structure that the server describes. */
  readonly structure: readonly Leaf[] | null;
  /** `[0]`, `[1]` … of an array, null for a single value. */
  readonly elements: readonly string[] | null;
  readonly told: Readonly<Record<string, string | number>>;
}

function browseNameIn(value: UaValue | undefined, otherwise: string): string {
  const name: unknown = value?.value.value;
  return typeof name === 'object' && name !== null && 'name' in name ? String(name.name) : otherwise;
}

/** Empty where they are none that a tag can have. */
function namesOf(names: ValueNames): string {
  const checked = checkNames(names.filter(({ name }) => name !== ''));
  return checked.ok ? formatNames(checked.value) : '';
}

function isRange(value: unknown): value is { readonly low: number; readonly high: number } {
  return (
    typeof value === 'object' && value !== null && 'low' in value && 'high' in value && Number.isFinite(value.low) && Number.isFinite(value.high)
  );
}

function textOf(value: unknown): string {
  if (typeof value === 'string') return value;
  const text = typeof value === 'object' && value !== null && 'text' in value ? value.text : '';
  return typeof text === 'string' ? text : '';
}
