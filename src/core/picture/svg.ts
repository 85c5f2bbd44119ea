/**
 * An SVG made harmless: nothing in it runs, moves, or leads out of it (SVG 2, chapters 5, 15 and 16 say what could). It is drawn as an
 * image besides, in which browsers run no script; both hold by themselves.
 */
import { SaxesParser, type SaxesTagNS } from 'saxes';
import { fail, ok, type Result } from '../result.ts';

const SVG = 'http://www.w3.org/2000/svg';
const XLINK = 'http://www.w3.org/1999/xlink';

/** Elements that only draw. */
const DRAWS = new Set(
  'svg g defs symbol use title desc path rect circle ellipse line polyline polygon text tspan textPath linearGradient radialGradient stop clipPath mask pattern marker style switch'.split(
    ' ',
  ),
);
/** Notes of drawing programs: nobody misses them. */
const SILENT = new Set(['metadata']);
/** What is dropped, in words. */
const WORDS: ReadonlyMap<string, string> = new Map(
  Object.entries({
    script: 'a script',
    foreignObject: 'a foreign object',
    image: 'a picture inside it',
    filter: 'a filter',
    a: 'a link',
    animate: 'an animation',
    animateMotion: 'an animation',
    animateTransform: 'an animation',
    set: 'an animation',
  }),
);

const DEEPEST = 100;
const MOST_NODES = 20_000;
/** Nodes that are drawn, what is used counted as often as it is used. */
const MOST_DRAWN = 100_000;

export interface HarmlessSvg {
  readonly svg: string;
  readonly width: number;
  readonly height: number;
  readonly removed: readonly string[];
}

/** Refuses what is no SVG, defines entities, says no size, or draws endlessly much. */
export function harmlessSvg(text: string): Result<HarmlessSvg> {
  const cleaner = new Cleaner();
  try {
    cleaner.read(text);
  } catch (error) {
    if (error instanceof Refusal) return fail(error.code, error.message, error.remedy);
    return fail('damaged', `The SVG cannot be read: ${error instanceof Error ? error.message : 'it is damaged'}`, 'Save it again where it was made.');
  }
  return cleaner.done();
}

class Refusal extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
}

/** An element with an id: how much it draws by itself, and what it uses. */
interface Part {
  count: number;
  readonly uses: string[];
}

class Cleaner {
  readonly #out: string[] = [];
  readonly #removed = new Set<string>();
  /** What is open and kept; null for one whose children alone are kept. */
  readonly #open: { readonly name: string | null; readonly part: Part | null }[] = [];
  readonly #parts = new Map<string, Part>();
  readonly #whole: Part = { count: 0, uses: [] };
  #size: { readonly width: number; readonly height: number } | null = null;
  #skipped = 0;
  /** The text of a style sheet, while one is open. */
  #style: string | null = null;

  read(text: string): void {
    const parser = new SaxesParser({ xmlns: true });
    parser.on('error', (error) => {
      throw error;
    });
    parser.on('doctype', (said) => {
      if (said.includes('<!ENTITY')) throw new Refusal('entities', 'The SVG defines entities of its own.', 'Save it as plain SVG.');
    });
    parser.on('opentag', (tag) => this.#begin(tag));
    parser.on('closetag', () => this.#end());
    parser.on('text', (said) => this.#say(said));
    parser.on('cdata', (said) => this.#say(said));
    parser.write(text).close();
  }

  done(): Result<HarmlessSvg> {
    if (!this.#size) return fail('no-picture', 'The file is no SVG.', 'Choose a PNG or an SVG.');
    if (drawnBy(this.#whole, this.#parts, new Map()) > MOST_DRAWN)
      return fail('endless', 'The SVG uses parts of itself over and over.', 'Save it as plain SVG, with its copies drawn out.');
    return ok({ svg: this.#out.join(''), ...this.#size, removed: [...this.#removed] });
  }

  #begin(tag: SaxesTagNS): void {
    if (this.#skipped > 0 || !this.#isKept(tag)) {
      this.#skipped++;
      return;
    }
    if (this.#open.length >= DEEPEST) throw new Refusal('deep', `The SVG is nested more than ${DEEPEST} deep.`, 'Save it as plain SVG.');
    if (tag.local === 'a') {
      this.#removed.add('a link');
      this.#open.push({ name: null, part: null });
      return;
    }
    const isRoot = this.#open.length === 0;
    if (isRoot && tag.local !== 'svg') throw new Refusal('no-picture', 'The file is no SVG.', 'Choose a PNG or an SVG.');
    const kept = this.#attributes(tag);
    if (isRoot) this.#sized(kept);
    const id = kept.get('id');
    const part: Part | null = id === undefined ? null : { count: 0, uses: [] };
    if (id !== undefined && part && !this.#parts.has(id)) this.#parts.set(id, part);
    this.#open.push({ name: tag.local, part });
    this.#count(kept);
    if (tag.local === 'style') {
      this.#style = '';
      return;
    }
    this.#out.push(`<${tag.local}${isRoot ? ` xmlns="${SVG}"` : ''}${[...kept].map(([name, value]) => ` ${name}="${escaped(value)}"`).join('')}>`);
  }

  #end(): void {
    if (this.#skipped > 0) return void this.#skipped--;
    const { name } = this.#open.pop() ?? { name: null };
    if (name === null) return;
    if (name !== 'style') return void this.#out.push(`</${name}>`);
    const style = this.#style ?? '';
    this.#style = null;
    if (leadsOut(style) || /[@\\]/.test(style)) this.#removed.add('a style sheet that leads out');
    else this.#out.push(`<style>${escaped(style)}</style>`);
  }

  #say(text: string): void {
    if (this.#skipped > 0 || this.#open.length === 0) return;
    if (this.#style !== null) this.#style += text;
    else this.#out.push(escaped(text));
  }

  #isKept({ uri, local }: SaxesTagNS): boolean {
    // Things of drawing programs beside the drawing.
    if (uri !== SVG || SILENT.has(local)) return false;
    if (DRAWS.has(local) || local === 'a') return true;
    this.#removed.add(WORDS.get(local) ?? `<${local.slice(0, 30)}>`);
    return false;
  }

  #attributes({ attributes }: SaxesTagNS): ReadonlyMap<string, string> {
    const kept = new Map<string, string>();
    for (const { uri, prefix, local, value } of Object.values(attributes)) {
      const isLink = local === 'href' && (uri === XLINK || prefix === '');
      if (isLink) {
        // Of two, the plain one counts.
        if (!/^#[^\s]+$/.test(value.trim())) this.#removed.add('a link out of it');
        else if (prefix === '' || !kept.has('href')) kept.set('href', value.trim());
      } else if (prefix !== '' || local === 'xmlns') continue;
      else if (/^on/i.test(local)) this.#removed.add('a script');
      else if (leadsOut(value)) this.#removed.add('a link out of it');
      else kept.set(local, value);
    }
    return kept;
  }

  /** Counts the element for all that it stands in. */
  #count(kept: ReadonlyMap<string, string>): void {
    const uses = [...kept].flatMap(([name, value]) =>
      name === 'href' ? [value.slice(1)] : [...value.matchAll(/url\(\s*['"]?#([^'")\s]+)/g)].map(([, id]) => id ?? ''),
    );
    for (const part of [this.#whole, ...this.#open.flatMap(({ part }) => part ?? [])]) {
      part.count++;
      part.uses.push(...uses);
    }
    if (this.#whole.count > MOST_NODES) throw new Refusal('too-much', `The SVG has more than ${MOST_NODES} parts.`, 'Save it as a PNG.');
  }

  #sized(kept: ReadonlyMap<string, string>): void {
    const box = (kept.get('viewBox') ?? '')
      .trim()
      .split(/[\s,]+/)
      .map(Number);
    const [width, height] = [pixels(kept.get('width')) ?? box[2], pixels(kept.get('height')) ?? box[3]];
    if (width === undefined || height === undefined || !Number.isFinite(width) || !Number.isFinite(height) || width <= 0 || height <= 0)
      throw new Refusal('size', 'The SVG does not say how large it is.', 'Save it with a width and a height.');
    this.#size = { width: Math.max(1, Math.round(width)), height: Math.max(1, Math.round(height)) };
    const root = kept as Map<string, string>;
    // With a view box it is drawn in any size.
    if (!kept.has('viewBox')) root.set('viewBox', `0 0 ${width} ${height}`);
    root.set('width', String(this.#size.width));
    root.set('height', String(this.#size.height));
  }
}

/** CSS Values 4, 6.2: absolute lengths in pixels; null for one that goes by what it stands in. */
function pixels(length: string | undefined): number | null {
  const match = /^\s*\+?(\d*\.?\d+(?:e[+-]?\d+)?)(px|mm|cm|in|pt|pc|q)?\s*$/i.exec(length ?? '');
  return match ? Number(match[1]) * (PER_UNIT[(match[2] ?? 'px').toLowerCase()] ?? 1) : null;
}
const PER_UNIT: Readonly<Record<string, number>> = { px: 1, in: 96, cm: 96 / 2.54, mm: 96 / 25.4, q: 96 / 101.6, pt: 96 / 72, pc: 16 };

/** A reference to anything but a part of the drawing itself, or a script in its place. */
function leadsOut(css: string): boolean {
  return /url\(\s*(?!\s*['"]?#)|image(-set)?\(|javascript:|expression\(/i.test(css.replace(/\/\*[\s\S]*?\*\//g, ''));
}

/** How many nodes are drawn; infinitely many where something uses itself. */
function drawnBy(part: Part, parts: ReadonlyMap<string, Part>, known: Map<Part, number>): number {
  const done = known.get(part);
  if (done !== undefined) return done;
  known.set(part, Infinity);
  let drawn = part.count;
  for (const id of part.uses) {
    const used = parts.get(id);
    if (used) drawn += drawnBy(used, parts, known);
    if (drawn > MOST_DRAWN) break;
  }
  known.set(part, drawn);
  return drawn;
}

function escaped(text: string): string {
  return text
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;')
    .replace(/\n/g, '&#10;')
    .replace(/\t/g, '&#9;')
    .replace(/\r/g, '&#13;');
}
