/** The tags of a list as a tree of groups, structures and arrays, with counts; and what a click on it does to the rule. */
import { EVERYTHING, type ChoosingRule } from './choose.ts';
import type { ListTag } from './understand.ts';

export interface TreeNode {
  readonly index: number;
  readonly label: string;
  readonly kind: 'group' | 'structure' | 'array' | 'tag';
  /** The pattern of a rule that names everything under it. */
  readonly pattern: string;
  readonly count: number;
  readonly chosen: number;
  readonly hasChildren: boolean;
}

interface Growing {
  readonly index: number;
  readonly label: string;
  readonly path: string;
  readonly isGroup: boolean;
  count: number;
  chosen: number;
  children: Map<string, Growing> | null;
}

export class TagTree {
  readonly #nodes: Growing[] = [];

  constructor() {
    this.#grow('', '', true);
  }

  add(tag: Pick<ListTag, 'listName' | 'group'>, isChosen: boolean): void {
    let node = this.#nodes[0];
    const step = (label: string, path: string, isGroup: boolean): void => {
      if (!node) return;
      node.children ??= new Map();
      const key = `${isGroup ? '/' : ''}${label}`;
      let next = node.children.get(key);
      if (!next) node.children.set(key, (next = this.#grow(label, path, isGroup)));
      node = next;
      node.count++;
      if (isChosen) node.chosen++;
    };
    const root = this.#nodes[0];
    if (root) root.count++;
    if (root && isChosen) root.chosen++;
    let path = '';
    for (const part of tag.group === '' ? [] : tag.group.split('/')) step(part, (path += `${part}/`), true);
    let name = '';
    // `Zones[1].Temp` is Zones, [1], .Temp.
    for (const part of tag.listName.match(/\[[^\]]*\]|\.?[^.[]+|./g) ?? []) step(part, (name += part), false);
  }

  /** What is right under a node; 0 is the root. */
  under(index: number): readonly TreeNode[] {
    return [...(this.#nodes[index]?.children?.values() ?? [])].map((node) => {
      const first = node.children?.values().next().value;
      const isArray = first?.label.startsWith('[') ?? false;
      return {
        index: node.index,
        label: node.label.replace(/^\./, ''),
        kind: node.isGroup ? 'group' : !first ? 'tag' : isArray ? 'array' : 'structure',
        pattern: node.isGroup ? `${node.path}*` : first ? `${node.path}${isArray ? '[' : '.'}*` : node.path,
        count: node.count,
        chosen: node.chosen,
        hasChildren: first !== undefined,
      };
    });
  }

  #grow(label: string, path: string, isGroup: boolean): Growing {
    const node: Growing = { index: this.#nodes.length, label, path, isGroup, count: 0, chosen: 0, children: null };
    this.#nodes.push(node);
    return node;
  }
}

/** The rule with everything that a pattern names taken in, or excluded. */
export function withPattern(rule: ChoosingRule | undefined, pattern: string, isWanted: boolean): ChoosingRule {
  const { include, exclude, onlyForPanels } = rule ?? EVERYTHING;
  const without = (list: readonly string[]): readonly string[] => list.filter((p) => p.toLowerCase() !== pattern.toLowerCase());
  if (!isWanted) {
    // Taking the only pattern away would bring everything in.
    const isOneOfMany = include.length > 1 && without(include).length < include.length;
    return { include: isOneOfMany ? without(include) : include, exclude: isOneOfMany ? exclude : [...without(exclude), pattern], onlyForPanels };
  }
  if (without(exclude).length < exclude.length) return { include, exclude: without(exclude), onlyForPanels };
  return { include: include.length === 0 ? include : [...without(include), pattern], exclude, onlyForPanels };
}
