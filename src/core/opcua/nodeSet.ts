/**
 * The variables of a node set (IEC 62541-6, annex F: UANodeSet) as browsing a server that has it loaded would find them: what
 * lies under Objects, by the same names, with the URI of its namespace.
 */
import { all, child, placeOf, type XmlNode } from '../taglist/xmlNodes.ts';
import { typeOfBuiltIn } from './dataTypes.ts';
import { elementsOf, MOST_DEPTH, MOST_ELEMENTS } from './elements.ts';
import { addressOfNode, formatNodeAddress } from './nodeId.ts';

export interface NodeSetVariable {
  /** Browse names from Objects on, joined by dots; element and member behind them. */
  readonly path: string;
  readonly canonical: string;
  /** Of IEC 61131-3; null where the file does not describe its data type. */
  readonly type: string | null;
  /** Structures that it is a member of, the outermost first. */
  readonly within: readonly string[];
  readonly access: 'R' | 'RW';
  readonly comment: string;
  readonly unit: string;
  readonly range: { readonly low: number; readonly high: number } | null;
  readonly names: readonly { readonly value: number; readonly name: string }[];
  /** The name of its data type, where that is an enumeration of this file. */
  readonly enumeration: string;
  readonly line: number;
  readonly place: string;
}

const STANDARD = 'http://opcfoundation.org/UA/';
const OBJECTS = 'i=85';
/** Levels of folders and objects. */
const MOST_LEVELS = 32;
const MOST_NODES = 1_000_000;

/** Built-in types by the number of their node (IEC 62541-6, table 1), and simple types of the standard that stand on them (IEC 62541-3, 8). */
const BUILT_IN: ReadonlyMap<string, string> = new Map(
  Object.entries({
    'i=1': 'Boolean',
    'i=2': 'SByte',
    'i=3': 'Byte',
    'i=4': 'Int16',
    'i=5': 'UInt16',
    'i=6': 'Int32',
    'i=7': 'UInt32',
    'i=8': 'Int64',
    'i=9': 'UInt64',
    'i=10': 'Float',
    'i=11': 'Double',
    'i=12': 'String',
    'i=13': 'DateTime',
    'i=21': 'LocalizedText',
    'i=29': 'Int32',
    'i=288': 'UInt32',
    'i=289': 'UInt32',
    'i=290': 'Double',
    'i=294': 'DateTime',
    'i=295': 'String',
  }),
);
const STRUCTURE = 'i=22';
/** References that lead down (IEC 62541-3, 7): HierarchicalReferences, HasChild, Organizes, Aggregates, HasProperty, HasComponent, HasOrderedComponent. */
const DOWN = ['i=33', 'i=34', 'i=35', 'i=44', 'i=46', 'i=47', 'i=49'];
const [HAS_PROPERTY, HAS_SUBTYPE] = ['i=46', 'i=45'];

/** What is left out of the tree of elements: it is long and tells nothing of a tag. */
export const PASSED_OVER_IN_NODE_SET = new Set(['Documentation', 'Extensions', 'RolePermissions', 'Translation', 'InverseName']);

export function variablesOfNodeSet(root: XmlNode): readonly NodeSetVariable[] {
  return new NodeSet(root).variables();
}

interface Field {
  readonly name: string;
  readonly typeId: string;
  readonly elements: readonly string[];
}

class NodeSet {
  readonly #uris: readonly string[];
  readonly #aliases: ReadonlyMap<string, string>;
  readonly #nodes = new Map<string, XmlNode>();
  readonly #below = new Map<string, string[]>();
  readonly #properties = new Map<string, string[]>();
  readonly #superTypes = new Map<string, string>();
  readonly #found: NodeSetVariable[] = [];

  constructor(root: XmlNode) {
    this.#uris = [STANDARD, ...all(root, 'NamespaceUris', 'Uri').map(({ text }) => text.trim())];
    this.#aliases = new Map(all(root, 'Aliases', 'Alias').map(({ attributes, text }) => [attributes.Alias ?? '', text.trim()]));
    for (const node of root.children) if (node.attributes.NodeId !== undefined) this.#nodes.set(this.#id(node.attributes.NodeId), node);
    const links = [...this.#nodes].flatMap(([id, node]) => this.#linksOf(id, node));
    for (const { type, from, to } of links) if (type === HAS_SUBTYPE) this.#superTypes.set(to, from);
    const down = new Set(DOWN);
    // A file may have kinds of references of its own.
    for (const [id, { name }] of this.#nodes) if (name === 'UAReferenceType' && DOWN.includes(this.#rootOf(id))) down.add(id);
    for (const { type, from, to } of links) {
      if (!down.has(type)) continue;
      addTo(this.#below, from, to);
      if (type === HAS_PROPERTY) addTo(this.#properties, from, to);
    }
  }

  variables(): readonly NodeSetVariable[] {
    const above = new Set([...this.#below.values()].flat());
    // What the standard puts under Objects is no part of the process.
    const own = (this.#below.get(OBJECTS) ?? []).filter((id) => id.startsWith('ns='));
    this.#walkInto(own, '', new Set([OBJECTS]));
    // What lies in another file's object is found there by its own name: where that object is, this file does not say.
    for (const [parent, children] of this.#below)
      if (!this.#nodes.has(parent) && !above.has(parent) && /^ns=/.test(parent)) this.#walkInto(children, '', new Set([parent]));
    return this.#found;
  }

  #walk(parent: string, path: string, way: ReadonlySet<string>): void {
    this.#walkInto(this.#below.get(parent) ?? [], path, way);
  }

  #walkInto(children: readonly string[], path: string, way: ReadonlySet<string>): void {
    const names = new Set<string>();
    for (const id of new Set(children)) {
      const node = this.#nodes.get(id);
      if (!node || way.has(id) || way.size > MOST_LEVELS || this.#found.length > MOST_NODES) continue;
      if (node.name !== 'UAObject' && node.name !== 'UAVariable') continue;
      const own = (node.attributes.BrowseName ?? id).replace(/^\d+:/, '').replaceAll('.', '_');
      const name = names.has(own.toLowerCase()) ? `${own} (${id})` : own;
      names.add(name.toLowerCase());
      const at = path === '' ? name : `${path}.${name}`;
      if (node.name === 'UAVariable') this.#add(id, node, at);
      else this.#walk(id, at, new Set([...way, id]));
    }
  }

  #add(id: string, node: XmlNode, path: string): void {
    const { attributes } = node;
    const canonical = formatNodeAddress(addressOfNode(id, this.#uris));
    const typeId = this.#id(attributes.DataType ?? 'i=24');
    const rank = Number(attributes.ValueRank ?? -1);
    const places = rank >= 0 ? elementsOf(lengthsIn(attributes.ArrayDimensions)) : [''];
    const level = Number(attributes.UserAccessLevel ?? attributes.AccessLevel ?? 1);
    const told = {
      access: (level & 2) !== 0 ? ('RW' as const) : ('R' as const),
      comment: child(node, 'Description')?.text.trim().slice(0, 400) ?? '',
      ...this.#told(id, typeId),
      line: node.line,
      place: placeOf(node),
    };
    const behind = (element: string): string => (element === '' ? canonical : `${canonical}#${element}`);
    if (this.#rootOf(typeId) !== STRUCTURE) {
      const type = typeOfBuiltIn(this.#builtIn(typeId) ?? '');
      for (const element of places) this.#found.push({ path: `${path}${element}`, canonical: behind(element), type, within: [], ...told });
      return;
    }
    const leaves = this.#leaves(typeId, [], '');
    for (const element of places)
      for (const { way, type, within } of leaves)
        // A member is written only with the whole.
        this.#found.push({ path: `${path}${element}.${way}`, canonical: `${canonical}#${element}.${way}`, type, within, ...told, access: 'R' });
  }

  /** Unit, range and texts of values (IEC 62541-8: EngineeringUnits, EURange, EnumStrings; IEC 62541-3, 8.52: EnumDefinition). */
  #told(id: string, typeId: string): Pick<NodeSetVariable, 'unit' | 'range' | 'names' | 'enumeration'> {
    let unit = '';
    let range: NodeSetVariable['range'] = null;
    const isEnumeration = this.#rootOf(typeId) === 'i=29';
    let names = isEnumeration ? this.#enumeration(typeId) : [];
    for (const property of this.#properties.get(id) ?? []) {
      const node = this.#nodes.get(property);
      const name = node?.attributes.BrowseName?.replace(/^\d+:/, '');
      const value = child(node, 'Value');
      if (name === 'EngineeringUnits') unit = deep(deep(value, 'DisplayName'), 'Text')?.text.trim().slice(0, 20) ?? '';
      if (name === 'EURange') {
        const [low, high] = [Number(deep(value, 'Low')?.text), Number(deep(value, 'High')?.text)];
        if (Number.isFinite(low) && Number.isFinite(high) && low < high) range = { low, high };
      }
      if (name === 'EnumStrings')
        names = (deep(value, 'ListOfLocalizedText')?.children ?? []).map((text, at) => ({ value: at, name: child(text, 'Text')?.text.trim() ?? '' }));
    }
    const enumeration = isEnumeration && names.length > 0 ? this.#nameOf(typeId) : '';
    return { unit, range, names: names.filter(({ name }) => name !== ''), enumeration };
  }

  #enumeration(typeId: string): readonly { readonly value: number; readonly name: string }[] {
    return all(this.#nodes.get(typeId), 'Definition', 'Field').flatMap(({ attributes }) =>
      attributes.Value === undefined ? [] : [{ value: Number(attributes.Value), name: attributes.Name ?? '' }],
    );
  }

  /** The values inside a structure, structures and arrays in it included; what it has from the types that it stands on comes first. */
  #leaves(typeId: string, around: readonly string[], before: string): readonly { way: string; type: string; within: readonly string[] }[] {
    if (around.length >= MOST_DEPTH) return [];
    const name = this.#nameOf(typeId);
    const within = [...around, name];
    const leaves: { way: string; type: string; within: readonly string[] }[] = [];
    for (const field of this.#fields(typeId, 0))
      for (const element of field.elements) {
        if (leaves.length > MOST_ELEMENTS) return leaves;
        const way = `${before}${field.name}${element}`;
        const type = typeOfBuiltIn(this.#builtIn(field.typeId) ?? '');
        if (type !== null) leaves.push({ way, type, within });
        else if (this.#rootOf(field.typeId) === STRUCTURE) leaves.push(...this.#leaves(field.typeId, within, `${way}.`));
      }
    return leaves;
  }

  #nameOf(typeId: string): string {
    return this.#nodes.get(typeId)?.attributes.BrowseName?.replace(/^\d+:/, '') ?? typeId;
  }

  #fields(typeId: string, depth: number): readonly Field[] {
    const node = this.#nodes.get(typeId);
    const base = this.#superTypes.get(typeId);
    const inherited = base !== undefined && depth < MOST_DEPTH ? this.#fields(base, depth + 1) : [];
    const own = all(node, 'Definition', 'Field').map(({ attributes }) => ({
      name: attributes.Name ?? '',
      typeId: this.#id(attributes.DataType ?? 'i=24'),
      elements: Number(attributes.ValueRank ?? -1) >= 0 ? elementsOf(lengthsIn(attributes.ArrayDimensions)) : [''],
    }));
    return [...inherited, ...own];
  }

  /** The built-in type that a data type stands on; null where this file does not say. */
  #builtIn(typeId: string): string | null {
    for (let at: string | undefined = typeId, depth = 0; at !== undefined && depth < MOST_DEPTH; at = this.#superTypes.get(at), depth++) {
      const known = BUILT_IN.get(at);
      if (known !== undefined) return known;
    }
    return null;
  }

  /** The type of the standard that a type of this file stands on: the nearest one that this file does not describe, or one that has a meaning here. */
  #rootOf(typeId: string): string {
    let at = typeId;
    for (let depth = 0; depth < MOST_DEPTH; depth++) {
      if (at === STRUCTURE || BUILT_IN.has(at) || DOWN.includes(at)) return at;
      const above = this.#superTypes.get(at);
      if (above === undefined) return at;
      at = above;
    }
    return at;
  }

  #linksOf(id: string, node: XmlNode): readonly { readonly type: string; readonly from: string; readonly to: string }[] {
    return all(node, 'References', 'Reference').map(({ attributes, text }) => {
      const other = this.#id(text.trim());
      const type = this.#id(attributes.ReferenceType ?? '');
      return attributes.IsForward === 'false' ? { type, from: other, to: id } : { type, from: id, to: other };
    });
  }

  /** A node id as written here, or behind an alias; `ns=0;` is left out. */
  #id(text: string): string {
    const named = this.#aliases.get(text) ?? text;
    return (/^(ns=|[isgb]=)/.test(named) ? named : (STANDARD_NAMES.get(named) ?? named)).replace(/^ns=0;/, '');
  }
}

const REFERENCE_NAMES = [
  ['HasSubtype', HAS_SUBTYPE],
  ['HierarchicalReferences', 'i=33'],
  ['HasChild', 'i=34'],
  ['Organizes', 'i=35'],
  ['Aggregates', 'i=44'],
  ['HasProperty', HAS_PROPERTY],
  ['HasComponent', 'i=47'],
  ['HasOrderedComponent', 'i=49'],
] as const;

/** Names that files write without listing them among their aliases. */
const STANDARD_NAMES = new Map<string, string>([...[...BUILT_IN].map(([id, name]) => [name, id] as const).reverse(), ...REFERENCE_NAMES]);

function addTo(lists: Map<string, string[]>, key: string, value: string): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

function lengthsIn(dimensions: string | undefined): readonly number[] {
  return (dimensions ?? '').split(',').flatMap((length) => (/^\s*\d+\s*$/.test(length) ? [Number(length)] : []));
}

/** The first element of a name, however deep. */
function deep(node: XmlNode | undefined, name: string): XmlNode | undefined {
  for (const inside of node?.children ?? []) {
    const found = inside.name === name ? inside : deep(inside, name);
    if (found) return found;
  }
  return undefined;
}
