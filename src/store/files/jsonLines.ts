/**
 * A log of lines in plain files, each line a JSON object with its number: forced to the disk before its writer goes on, several that
 * wait at once together. Files follow one another, and the oldest go.
 */
import { open, readdir, readFile, rm, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { jsonObjectIn } from '@/core/jsonText.ts';

export type Line = Readonly<Record<string, unknown>> & { readonly seq: number };

export interface LinesOptions {
  /** Lines after which a new file is begun, and how many files there are at most. */
  readonly linesInFile: number;
  readonly files: number;
}

interface Waiting {
  readonly line: object;
  readonly written: () => void;
  readonly failed: (error: unknown) => void;
}

const DIGITS = 12;

export class JsonLines {
  readonly #folder: string;
  readonly #name: string;
  readonly #options: LinesOptions;
  /** Of each file the number of its first line, in their order. */
  readonly #firsts: number[];
  #file: FileHandle | null = null;
  #inFile: number;
  #next: number;
  /** The end of the file is half a line: of a power cut, or of a full disk. */
  #isTorn: boolean;
  #waiting: Waiting[] = [];
  #writing: Promise<void> | null = null;
  /** What a new file begins with. */
  beginning: () => readonly object[] = () => [];

  private constructor(folder: string, name: string, options: LinesOptions, firsts: number[], last: { count: number; next: number; isTorn: boolean }) {
    this.#folder = folder;
    this.#name = name;
    this.#options = options;
    this.#firsts = firsts;
    this.#inFile = last.count;
    this.#next = last.next;
    this.#isTorn = last.isTorn;
  }

  /** @returns the log, and the lines of its newest two files */
  static async open(folder: string, name: string, options: LinesOptions): Promise<{ readonly log: JsonLines; readonly recent: readonly Line[] }> {
    const pattern = new RegExp(`^${name}-(\\d{${DIGITS}})\\.jsonl$`);
    const firsts = (await readdir(folder)).flatMap((file) => Number(pattern.exec(file)?.[1] ?? NaN)).filter((first) => !Number.isNaN(first));
    firsts.sort((a, b) => a - b);
    const texts = await Promise.all(firsts.slice(-2).map((first) => readFile(pathOf(folder, name, first), 'utf8')));
    const parts = texts.map(linesIn);
    const recent = parts.flat();
    const newest = texts.at(-1) ?? '';
    const next = Math.max(recent.at(-1)?.seq ?? 0, (firsts.at(-1) ?? 1) - 1) + 1;
    const last = { count: parts.at(-1)?.length ?? 0, next, isTorn: newest !== '' && !newest.endsWith('\n') };
    return { log: new JsonLines(folder, name, options, firsts, last), recent };
  }

  /** The number of the last line; 0 for none. */
  get lastSeq(): number {
    return this.#next - 1;
  }

  /** @returns when it is on the disk. @throws Error when it cannot be */
  append(line: object): Promise<void> {
    return new Promise((written, failed) => {
      this.#waiting.push({ line, written, failed });
      this.#writing ??= this.#writeAll();
    });
  }

  /** The lines after a number that are still there, in their order. */
  async *after(seq: number): AsyncGenerator<Line> {
    for (const [at, first] of this.#firsts.entries()) {
      const nextFirst = this.#firsts[at + 1];
      if (nextFirst !== undefined && nextFirst <= seq + 1) continue;
      const text = await readFile(pathOf(this.#folder, this.#name, first), 'utf8').catch(() => '');
      for (const line of linesIn(text)) if (line.seq > seq) yield line;
    }
  }

  async close(): Promise<void> {
    await this.#writing;
    await this.#file?.close();
    this.#file = null;
  }

  async #writeAll(): Promise<void> {
    while (this.#waiting.length > 0) {
      const now = this.#waiting.splice(0);
      try {
        await this.#write(now.map(({ line }) => line));
        for (const { written } of now) written();
      } catch (error) {
        for (const { failed } of now) failed(error);
      }
    }
    this.#writing = null;
  }

  async #write(lines: readonly object[]): Promise<void> {
    if (this.#firsts.length === 0 || this.#inFile >= this.#options.linesInFile) await this.#beginFile();
    const last = this.#firsts.at(-1) ?? 1;
    this.#file ??= await open(pathOf(this.#folder, this.#name, last), 'a', 0o600);
    const text = lines.map((line, i) => `${JSON.stringify({ ...line, seq: this.#next + i })}\n`).join('');
    const before = this.#isTorn ? '\n' : '';
    this.#isTorn = true;
    await this.#file.appendFile(before + text);
    await this.#file.datasync();
    this.#isTorn = false;
    this.#next += lines.length;
    this.#inFile += lines.length;
  }

  async #beginFile(): Promise<void> {
    await this.#file?.close();
    this.#file = null;
    this.#firsts.push(this.#next);
    this.#inFile = 0;
    this.#isTorn = false;
    const first = this.beginning();
    if (first.length > 0) await this.#write(first);
    while (this.#firsts.length > this.#options.files) {
      const oldest = this.#firsts.shift();
      if (oldest !== undefined) await rm(pathOf(this.#folder, this.#name, oldest), { force: true });
    }
  }
}

const pathOf = (folder: string, name: string, first: number): string => join(folder, `${name}-${String(first).padStart(DIGITS, '0')}.jsonl`);

/** A line that a power cut left half is none. */
function linesIn(text: string): readonly Line[] {
  return text.split('\n').flatMap((line) => {
    const read = line === '' ? null : jsonObjectIn(line);
    return read && typeof read.seq === 'number' ? [{ ...read, seq: read.seq }] : [];
  });
}
