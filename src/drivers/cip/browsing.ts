/** The tags of a controller by scope, with their types, structures and arrays, as it tells them itself. */
import { elementary } from '@/core/cip/dataTypes.ts';
import { PARTIAL, SUCCESS } from '@/core/cip/status.ts';
import { SERVICE, type CipReply } from '@/core/cip/message.ts';
import {
  isHidden,
  readSymbols,
  readTemplate,
  readTemplateFacts,
  symbolsRequest,
  templateFactsRequest,
  templateRequest,
  textLength,
  type DeclaredType,
  type Symbol,
  type Template,
} from '@/core/cip/symbols.ts';
import { PACKED_BITS } from '@/core/cip/values.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { BrowsedNode, CallContext } from '../contract.ts';
import { refusal, type Target } from './target.ts';

/** Symbols that one scope may have. */
const MOST_SYMBOLS = 200_000;
/** An array may have so many elements as tags of their own. */
const MOST_ELEMENTS = 4000;
/** Structures in structures. */
const MOST_DEPTH = 16;
/** What is left of a message for the description of a structure. */
const HEAD_BYTES = 12;

interface Shape {
  readonly type: DeclaredType;
  readonly lengths: readonly number[];
  /** Structures that it is inside, the outermost first. */
  readonly within: readonly string[];
}

/** Paths are addresses. What was found under one is kept as long as the browser is: each scope and template is asked for once. */
export class TagBrowser {
  readonly #target: Target;
  readonly #templates = new Map<number, Template>();
  readonly #shapes = new Map<string, Shape>();

  constructor(target: Target) {
    this.#target = target;
  }

  async under(path: string, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    if (path === '') return this.#scopes(context);
    const shape = this.#shapes.get(path);
    return shape ? this.#inside(path, shape, context) : fail('gone', `There is no ${path} (any more).`, 'Browse from the start.');
  }

  async #scopes(context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    const own = await this.#symbols(null, context);
    if (!own.ok) return own;
    const nodes: BrowsedNode[] = [];
    const programs: string[] = [];
    for (const symbol of own.value) {
      if (/^program:[^:]+$/i.test(symbol.name)) programs.push(symbol.name);
      else nodes.push(...(await this.#nodesOf(symbol.name, symbol, context)));
    }
    for (const program of programs) {
      const inside = await this.#symbols(program, context);
      if (!inside.ok) return inside;
      for (const symbol of inside.value) nodes.push(...(await this.#nodesOf(`${program}.${symbol.name}`, symbol, context)));
    }
    return ok(nodes);
  }

  async #nodesOf(path: string, { name, type, lengths }: Symbol, context: CallContext): Promise<readonly BrowsedNode[]> {
    // A name with a colon and no structure behind it is one of tasks, routines and the like.
    if (isHidden(name) || type.isSystem || (name.includes(':') && type.template === null)) return [];
    return this.#node(path, { type, lengths, within: [] }, context);
  }

  /** One value, or something that has others inside; nothing where no tag could hold it. */
  async #node(path: string, shape: Shape, context: CallContext): Promise<readonly BrowsedNode[]> {
    if (shape.lengths.length === 0) {
      const type = await this.#typeOf(shape.type, context);
      if (type !== null) return [{ path, canonical: path, type, hasChildren: false, ...(shape.within.length > 0 ? { within: shape.within } : {}) }];
      if (shape.type.template === null) return [];
    }
    this.#shapes.set(path, shape);
    return [{ path, canonical: path, type: null, hasChildren: true }];
  }

  async #inside(path: string, shape: Shape, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    const nodes: BrowsedNode[] = [];
    if (shape.lengths.length > 0) {
      const isBits = elementary(shape.type.code)?.name === 'DWORD' && shape.type.template === null;
      const lengths = isBits ? [(shape.lengths[0] ?? 0) * PACKED_BITS] : shape.lengths;
      const element: Shape = isBits ? { ...shape, type: { ...shape.type, code: BOOL }, lengths: [] } : { ...shape, lengths: [] };
      for (const index of indexesOf(lengths)) nodes.push(...(await this.#node(`${path}[${index}]`, element, context)));
      return ok(nodes);
    }
    if (shape.within.length >= MOST_DEPTH || shape.type.template === null) return ok(nodes);
    const template = await this.#template(shape.type.template, context);
    if (!template.ok) return template;
    const within = [...shape.within, template.value.name];
    for (const { name, type, length } of template.value.members) {
      if (isHidden(name)) continue;
      nodes.push(...(await this.#node(`${path}.${name}`, { type, lengths: length > 0 ? [length] : [], within }, context)));
    }
    return ok(nodes);
  }

  /** The type of a tag for it; null for a structure that is no text, and for what no tag can hold. */
  async #typeOf(type: DeclaredType, context: CallContext): Promise<string | null> {
    if (type.template === null) return elementary(type.code)?.name ?? null;
    const template = await this.#template(type.template, context);
    const length = template.ok ? textLength(template.value) : null;
    return length === null ? null : `STRING(${length})`;
  }

  async #symbols(scope: string | null, context: CallContext): Promise<Result<readonly Symbol[]>> {
    const all: Symbol[] = [];
    for (let from = 0; all.length < MOST_SYMBOLS;) {
      const reply = await this.#ask(SERVICE.instanceAttributeList, symbolsRequest(scope, from), context);
      if (!reply.ok) return reply;
      const some = readSymbols(reply.value.data);
      if (!some.ok) return some;
      all.push(...some.value);
      const last = some.value.at(-1)?.instance ?? -1;
      if (reply.value.general !== PARTIAL) return ok(all);
      if (last < from) return fail('endless', 'The controller lists the same tags again and again.', 'Import the list from a file.');
      from = last + 1;
    }
    return fail('too-large', `The controller lists more than ${MOST_SYMBOLS} tags.`, 'Import the list from a file.');
  }

  async #template(instance: number, context: CallContext): Promise<Result<Template>> {
    const known = this.#templates.get(instance);
    if (known) return ok(known);
    const told = await this.#ask(SERVICE.getAttributeList, templateFactsRequest(instance), context);
    if (!told.ok) return told;
    const facts = readTemplateFacts(told.value.data);
    if (!facts.ok) return facts;
    const { describedBytes, members } = facts.value;
    const data = new Uint8Array(describedBytes);
    for (let at = 0; at < describedBytes;) {
      const wanted = Math.min(describedBytes - at, this.#target.size.reply - HEAD_BYTES);
      const part = await this.#ask(SERVICE.readTag, templateRequest(instance, at, wanted), context);
      if (!part.ok) return part;
      const { data: bytes } = part.value;
      if (bytes.length === 0 || bytes.length > describedBytes - at)
        return fail('template', 'The description of a structure does not have the length that was told.');
      data.set(bytes, at);
      at += bytes.length;
    }
    const template = readTemplate(data, members);
    if (template.ok) this.#templates.set(instance, template.value);
    return template;
  }

  async #ask(service: number, message: Uint8Array, context: CallContext): Promise<Result<CipReply>> {
    const asked = await this.#target.ask(service, message, context);
    if (!asked.ok) return { ok: false, problem: asked.fault.problem };
    const { general } = asked.reply;
    return general === SUCCESS || general === PARTIAL ? ok(asked.reply) : { ok: false, problem: refusal(asked.reply).problem };
  }
}

const BOOL = 0xc1;

/** `0,0`, `0,1` … of an array. One with more elements than anybody shows is left out as a whole. */
function indexesOf(lengths: readonly number[]): readonly string[] {
  if (lengths.reduce((all, length) => all * length, 1) > MOST_ELEMENTS) return [];
  let indexes = [''];
  for (const length of lengths) indexes = indexes.flatMap((before) => Array.from({ length }, (_, i) => `${before}${before === '' ? '' : ','}${i}`));
  return indexes;
}
