/**
 * The recordings of the past on the disk: one file a stretch, deflated, named by when it begins and ends. The oldest go when there is no
 * more room for them. A file that was cut off by the end of the server is left out.
 */
import { mkdir, readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import { writeWhole } from './writeWhole.ts';

const FOLDER = 'recordings';
const NAME = /^(\d{13})-(\d{13})\.rec$/;
/** The fastest but two: the streams are mostly zeros. */
const LEVEL = 4;

const deflated = promisify<Uint8Array, { level: number }, Buffer>(deflate);
const inflated = promisify<Uint8Array, Buffer>(inflate);

export interface Stretch {
  readonly from: number;
  readonly to: number;
  readonly bytes: number;
}

export class RecordingRing {
  readonly #folder: string;
  /** The oldest first. */
  #stretches: Stretch[];

  private constructor(folder: string, stretches: Stretch[]) {
    this.#folder = folder;
    this.#stretches = stretches;
  }

  static async open(dataFolder: string): Promise<RecordingRing> {
    const folder = join(dataFolder, FOLDER);
    await mkdir(folder, { recursive: true });
    const stretches: Stretch[] = [];
    for (const name of await readdir(folder)) {
      const match = NAME.exec(name);
      if (match) stretches.push({ from: Number(match[1]), to: Number(match[2]), bytes: (await stat(join(folder, name))).size });
      // A draft that was never finished.
      else if (name.includes('.new-')) await rm(join(folder, name), { force: true });
    }
    return new RecordingRing(
      folder,
      stretches.sort((a, b) => a.from - b.from),
    );
  }

  get stretches(): readonly Stretch[] {
    return this.#stretches;
  }

  get bytes(): number {
    return this.#stretches.reduce((sum, { bytes }) => sum + bytes, 0);
  }

  /** @param most  bytes that all of them may take; the oldest go for it */
  async add(from: number, to: number, content: Uint8Array, most: number): Promise<void> {
    const packed = await deflated(content, { level: LEVEL });
    await writeWhole(this.#path({ from, to }), packed);
    this.#stretches.push({ from, to, bytes: packed.length });
    await this.prune(most);
  }

  async prune(most: number, olderThan = 0): Promise<void> {
    while (this.#stretches.length > 0 && (this.bytes > most || (this.#stretches[0]?.to ?? 0) < olderThan)) {
      const [oldest] = this.#stretches.splice(0, 1);
      if (oldest) await rm(this.#path(oldest), { force: true });
    }
  }

  /** Null where it is gone, or is none. */
  async read(stretch: Pick<Stretch, 'from' | 'to'>): Promise<Uint8Array | null> {
    return readFile(this.#path(stretch))
      .then(inflated, () => null)
      .catch(() => null);
  }

  /** Those that hold something of a span of time, the oldest first. */
  within(from: number, to: number): readonly Stretch[] {
    return this.#stretches.filter((stretch) => stretch.to >= from && stretch.from <= to);
  }

  #path({ from, to }: Pick<Stretch, 'from' | 'to'>): string {
    return join(this.#folder, `${from}-${to}.rec`);
  }
}
