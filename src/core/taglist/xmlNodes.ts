/** XML as a tree of elements, each with its place. A DOCTYPE is refused: an interchange file needs none, and entities can be made to harm. */
import { SaxesParser, type SaxesTagPlain } from 'saxes';
import type { Problem } from '../result.ts';

const MAX_NESTING = 100;

export interface XmlNode {
  /** Without the prefix of its namespace. */
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlNode[];
  text: string;
  readonly line: number;
  readonly column: number;
}

export type ReadXml = { readonly root: XmlNode; readonly problem: Problem | null } | { readonly root: null; readonly problem: Problem };

export function looksLikeXml(text: string): boolean {
  return /^\uFEFF?\s*<(\?xml|!DOCTYPE|!--|project\b|UANodeSet\b)/i.test(text.slice(0, 400));
}

export function child(node: XmlNode | undefined, name: string): XmlNode | undefined {
  return node?.children.find((n) => n.name === name);
}
export function all(node: XmlNode | undefined, list: string, name: string): readonly XmlNode[] {
  return (child(node, list)?.children ?? []).filter((n) => n.name === name);
}
export function placeOf({ line, column }: Pick<XmlNode, 'line' | 'column'>): string {
  return `line ${line}, column ${column}`;
}

class Refused extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.message);
    this.problem = problem;
  }
}

/**
 * What could be read of a file that ends in a mistake is kept: its rows can still be seen.
 * @param passedOver elements that are left out with all that is in them
 */
export function readXml(text: string, passedOver: ReadonlySet<string>): ReadXml {
  const parser = new SaxesParser({ position: true });
  let root: XmlNode | null = null;
  const open: XmlNode[] = [];
  let passed = 0;
  const here = (): string => `line ${parser.line}, column ${parser.column + 1}`;
  const refuse = (code: string, message: string, remedy: string): never => {
    throw new Refused({ code, message, remedy, place: here() });
  };
  let [line, column] = [1, 1];
  parser.on('error', (error) => refuse('xml', `The XML is broken: ${error.message.replace(/^\d+:\d+: /, '')}`, 'Export the project again.'));
  parser.on('doctype', () =>
    refuse('doctype', 'The file declares a document type, with which entities could be imported.', 'Export it as plain XML, which has none.'),
  );
  parser.on('opentagstart', () => ([line, column] = [parser.line, parser.column]));
  parser.on('opentag', (tag) => {
    const { name, attributes } = tag as SaxesTagPlain;
    const plain = name.replace(/^.*:/, '');
    if (open.length + passed > MAX_NESTING)
      refuse('too-deep', `The XML is nested more than ${MAX_NESTING} levels deep.`, 'Export the project again.');
    if (passed > 0 || passedOver.has(plain)) {
      passed++;
      return;
    }
    const node: XmlNode = { name: plain, attributes, children: [], text: '', line, column: Math.max(1, column - name.length) };
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
