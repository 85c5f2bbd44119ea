/**
 * Reads PLCopen XML (Technical Committee 6, version 2.01; from memory of the published schema): data types and global
 * variables. A DOCTYPE is refused: an interchange file needs none, and entities can be made to harm.
 */
import type { Problem } from '../result.ts';
import { formatDataType, parseDataType } from '../value/dataType.ts';
import { all, child, placeOf, readXml, type XmlNode as Node } from './xmlNodes.ts';
import type { DeclaredType, DeclaredVariable, Declarations, Initial, Member, TypeRef } from './declared.ts';

const MAX_PROBLEMS = 200;

/** Parts that are kept; bodies of programs are passed over, they can be most of a file. */
const PASSED_OVER = new Set(['body', 'transitions', 'actions', 'addData', 'coordinateInfo', 'pous']);

export function parsePlcOpen(text: string): Declarations {
  const read = readXml(text, PASSED_OVER);
  if (!read.root) return { types: new Map(), variables: [], problems: [read.problem], version: '' };
  if (read.root.name !== 'project')
    return {
      types: new Map(),
      variables: [],
      version: '',
      problems: [
        {
          code: 'not-plcopen',
          message: `The file is XML, but its root is “${read.root.name.slice(0, 40)}”, not the “project” of PLCopen.`,
          remedy: 'Export it as PLCopen XML (TC6), or as a table.',
          place: `line ${read.root.line}, column ${read.root.column}`,
        },
      ],
    };
  const { root } = read;
  const types = new Map<string, DeclaredType>();
  const problems: Problem[] = read.problem ? [read.problem] : [];
  for (const node of all(child(root, 'types'), 'dataTypes', 'dataType')) {
    const { name = '' } = node.attributes;
    const type = typeIn(child(node, 'baseType'));
    if (name === '' || !type) problems.push(lack(node, name === '' ? 'A data type has no name.' : `The data type “${name}” has no base type.`));
    else types.set(name.toLowerCase(), { name, type, initial: initialOf(child(node, 'initialValue')), place: placeOf(node) });
  }
  const variables: DeclaredVariable[] = [];
  /** What is to be seen from outside, by the name of the variable. */
  const access = new Map<string, 'R' | 'RW'>();
  for (const configuration of all(child(root, 'instances'), 'configurations', 'configuration')) {
    variables.push(...globals(configuration, '', problems));
    for (const { attributes } of configuration.children.flatMap((n) => (n.name === 'accessVars' ? n.children : [])))
      access.set((attributes.instancePathAndName ?? '').replace(/^.*\./, '').toLowerCase(), attributes.direction === 'readWrite' ? 'RW' : 'R');
    for (const resource of configuration.children)
      if (resource.name === 'resource') variables.push(...globals(resource, resource.attributes.name ?? '', problems));
  }
  const marked = variables.map((variable) => {
    const allowed = access.get(variable.name.toLowerCase());
    return allowed ? { ...variable, access: allowed, isForPanel: true } : variable;
  });
  return { types, variables: marked, problems: problems.slice(0, MAX_PROBLEMS), version: child(root, 'contentHeader')?.attributes.version ?? '' };
}

function globals(owner: Node, group: string, problems: Problem[]): readonly DeclaredVariable[] {
  return owner.children.flatMap((block) => {
    if (block.name !== 'globalVars') return [];
    const blockName = block.attributes.name ?? '';
    return block.children.flatMap((node) => {
      if (node.name !== 'variable') return [];
      const { name = '', address = '' } = node.attributes;
      const type = typeIn(child(node, 'type'));
      if (name === '' || !type) {
        problems.push(lack(node, name === '' ? 'A variable has no name.' : `The variable “${name}” has no type.`));
        return [];
      }
      return [
        {
          name,
          type,
          address,
          initial: initialOf(child(node, 'initialValue')),
          comment: documentation(node),
          isForPanel: false,
          group: [group, blockName].filter(Boolean).join('/'),
          access: block.attributes.constant === 'true' ? ('R' as const) : ('' as const),
          line: node.line,
          place: placeOf(node),
        },
      ];
    });
  });
}

function typeIn(holder: Node | undefined): TypeRef | null {
  const node = holder?.children.find((n) => n.name !== 'documentation');
  return node ? typeOf(node) : null;
}

function typeOf(node: Node): TypeRef | null {
  const { attributes, name } = node;
  switch (name) {
    case 'derived':
      return { kind: 'named', name: attributes.name ?? '', place: placeOf(node) };
    case 'array': {
      const of = typeIn(child(node, 'baseType'));
      const bounds = node.children
        .filter((n) => n.name === 'dimension')
        .map((n) => [Number(n.attributes.lower), Number(n.attributes.upper)] as const);
      const isWhole = bounds.length > 0 && bounds.every(([low, high]) => Number.isSafeInteger(low) && Number.isSafeInteger(high) && low <= high);
      return of && isWhole ? { kind: 'array', bounds, of } : null;
    }
    case 'struct':
      return { kind: 'structure', members: node.children.flatMap((n) => (n.name === 'variable' ? memberOf(n) : [])) };
    case 'enum': {
      let next = 0;
      const values = (child(node, 'values')?.children ?? []).map((n) => {
        const given = n.attributes.value?.trim();
        const value = given !== undefined && /^-?\d+$/.test(given) ? Number(given) : next;
        next = value + 1;
        return { name: n.attributes.name ?? '', value };
      });
      const base = typeIn(child(node, 'baseType'));
      return { kind: 'enumeration', base: base?.kind === 'elementary' ? base.text : null, values };
    }
    case 'subrangeSigned':
    case 'subrangeUnsigned': {
      const range = child(node, 'range');
      const [low, high] = [Number(range?.attributes.lower), Number(range?.attributes.upper)];
      const base = typeIn(child(node, 'baseType'));
      return base?.kind === 'elementary' && Number.isFinite(low) && Number.isFinite(high) ? { kind: 'subrange', base: base.text, low, high } : null;
    }
    case 'string':
    case 'wstring':
      return { kind: 'elementary', text: `${name.toUpperCase()}${attributes.length ? `(${attributes.length})` : ''}` };
    case 'pointer':
      return { kind: 'other', words: 'a pointer' };
    default: {
      const type = parseDataType(name);
      return type.ok ? { kind: 'elementary', text: formatDataType(type.value) } : { kind: 'other', words: `a ${name.slice(0, 40)}` };
    }
  }
}

function memberOf(node: Node): readonly Member[] {
  const type = typeIn(child(node, 'type'));
  const { name = '' } = node.attributes;
  if (!type || name === '') return [];
  return [{ name, type, initial: initialOf(child(node, 'initialValue')), comment: documentation(node), isForPanel: false, atBit: null }];
}

function initialOf(holder: Node | undefined): Initial | null {
  const node = holder?.children[0];
  switch (node?.name) {
    case 'simpleValue':
      return { kind: 'value', text: (node.attributes.value ?? '').slice(0, 200) };
    case 'arrayValue':
      return {
        kind: 'list',
        items: node.children.map((n) => ({ times: Number(n.attributes.repetitionValue ?? 1) || 1, value: initialOf(n) })),
      };
    case 'structValue':
      return {
        kind: 'fields',
        fields: new Map(
          node.children.flatMap((n) => {
            const value = initialOf(n);
            return value ? [[(n.attributes.member ?? '').toLowerCase(), value] as const] : [];
          }),
        ),
      };
    default:
      return null;
  }
}

function documentation(node: Node): string {
  const words = (n: Node): string => [n.text, ...n.children.map(words)].join(' ');
  const found = child(node, 'documentation');
  return found ? words(found).replace(/\s+/g, ' ').trim().slice(0, 400) : '';
}

function lack(node: Node, message: string): Problem {
  return { code: 'plcopen', message, remedy: 'Export the project again.', place: placeOf(node) };
}
