/**
 * Reads PLCopen XML (Technical Committee 6, version 2.01; from memory of the published schema): data types and global
 * variables. A DOCTYPE is refused: an interchange file needs none, and entities can be made to harm.
 */
import { SaxesParser, type SaxesTagPlain } from 'saxes';
import type { Problem } from '../result.ts';
import { parseDataType } from '../value/dataType.ts';
import type { DeclaredType, DeclaredVariable, Declarations, Initial, Member, TypeRef } from './declared.ts';

const MAX_NESTING = 100;
const MAX_PROBLEMS = 200;

interface Node {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: Node[];
  text: string;
  readonly line: number;
  readonly column: number;
}

/** Parts that are kept; bodies of programs are passed over, they can be most of a file. */
const PASSED_OVER = new Set(['body', 'transitions', 'actions', 'addData', 'coordinateInfo', 'pous']);

export function looksLikePlcOpen(text: string): boolean {
  return /^\uFEFF?\s*<(\?xml|!DOCTYPE|project\b)/i.test(text.slice(0, 400));
}

export function parsePlcOpen(text: string): Declarations {
  const read = readNodes(text);
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
      const short: Readonly<Record<string, string>> = { TOD: 'TIME_OF_DAY', DT: 'DATE_AND_TIME' };
      const text = short[name] ?? name;
      return parseDataType(text).ok ? { kind: 'elementary', text } : { kind: 'other', words: `a ${name.slice(0, 40)}` };
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

function child(node: Node | undefined, name: string): Node | undefined {
  return node?.children.find((n) => n.name === name);
}
function all(node: Node | undefined, list: string, name: string): readonly Node[] {
  return (child(node, list)?.children ?? []).filter((n) => n.name === name);
}
function placeOf({ line, column }: Node): string {
  return `line ${line}, column ${column}`;
}
function lack(node: Node, message: string): Problem {
  return { code: 'plcopen', message, remedy: 'Export the project again.', place: placeOf(node) };
}

class Refused extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.message);
    this.problem = problem;
  }
}

/** What could be read of a file that ends in a mistake is kept: its rows can still be seen. */
function readNodes(text: string): { readonly root: Node; readonly problem: Problem | null } | { readonly root: null; readonly problem: Problem } {
  const parser = new SaxesParser({ position: true });
  let root: Node | null = null;
  const open: Node[] = [];
  let passed = 0;
  const here = (): string => `line ${parser.line}, column ${parser.column + 1}`;
  const refuse = (code: string, message: string, remedy: string): never => {
    throw new Refused({ code, message, remedy, place: here() });
  };
  let [line, column] = [1, 1];
  parser.on('error', (error) => refuse('xml', `The XML is broken: ${error.message.replace(/^\d+:\d+: /, '')}`, 'Export the project again.'));
  parser.on('doctype', () =>
    refuse('doctype', 'The file declares a document type, with which entities could be imported.', 'Export it as plain PLCopen XML, which has none.'),
  );
  parser.on('opentagstart', () => ([line, column] = [parser.line, parser.column]));
  parser.on('opentag', (tag) => {
    const { name, attributes } = tag as SaxesTagPlain;
    const plain = name.replace(/^.*:/, '');
    if (open.length + passed > MAX_NESTING)
      refuse('too-deep', `The XML is nested more than ${MAX_NESTING} levels deep.`, 'Export the project again.');
    if (passed > 0 || PASSED_OVER.has(plain)) {
      passed++;
      return;
    }
    const node: Node = { name: plain, attributes, children: [], text: '', line, column: Math.max(1, column - name.length) };
    open.at(-1)?.children.push(node);
    root ??= node;
    open.push(node);
  });
  parser.on('closetag', () => {
    if (passed > 0) passed--;
    else open.pop();
  });
  parser.on('text', (words) => {
    const node = open.at(-1);
    if (node && passed === 0 && words.trim() !== '') node.text += words;
  });
  try {
    parser.write(text.replace(/^\uFEFF/, '')).close();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    const refusesAll = error.problem.code === 'doctype' || error.problem.code === 'too-deep';
    return root === null || refusesAll ? { root: null, problem: error.problem } : { root, problem: error.problem };
  }
  return root ? { root, problem: null } : { root: null, problem: { code: 'xml', message: 'The XML holds nothing.', place: 'line 1' } };
}
