/** The log of writes of a panel host: only ever added to. Each line is an entry as it stood then; the bench fetches what is new of it. */
import type { WriteRecord, WriteState } from '@/core/live/writeOutcome.ts';
import type { ValueJson } from '@/core/value/engineering.ts';
import type { WriteFilter } from '../recordStore.ts';
import { JsonLines, type Line } from './jsonLines.ts';

/** Some months of a panel that is operated all day. */
const OPTIONS = { linesInFile: 5000, files: 40 };
/** Entries that are looked through; older ones are in the files. */
const REMEMBERED = 2000;

export class WriteLog {
  readonly #log: JsonLines;
  /** The newest, in their order. */
  readonly #entries = new Map<string, WriteRecord>();

  private constructor(log: JsonLines, recent: readonly Line[]) {
    this.#log = log;
    for (const line of recent) this.#remember(recordIn(line));
  }

  static async open(folder: string): Promise<WriteLog> {
    const { log, recent } = await JsonLines.open(folder, 'writes', OPTIONS);
    return new WriteLog(log, recent);
  }

  get lastSeq(): number {
    return this.#log.lastSeq;
  }

  /** @returns false when there is an entry with this id already */
  async addWrite(write: WriteRecord): Promise<boolean> {
    if (this.#entries.has(write.id)) return false;
    this.#remember(write);
    try {
      await this.#log.append(write);
    } catch (error) {
      // What cannot be logged is not sent: there was no such write.
      this.#entries.delete(write.id);
      throw error;
    }
    return true;
  }

  async write(id: string): Promise<WriteRecord | null> {
    return this.#entries.get(id) ?? null;
  }

  async completeWrite(id: string, state: WriteState, held: ValueJson | null, note: string): Promise<void> {
    const entry = this.#entries.get(id);
    if (!entry) return;
    const done = { ...entry, state, held, note };
    this.#entries.set(id, done);
    await this.#log.append(done);
  }

  async settleOrphans(): Promise<void> {
    for (const { id, state } of [...this.#entries.values()])
      if (state === 'sent') await this.completeWrite(id, 'unknown', null, 'The panel host ended before the reply came: unknown whether it was done.');
  }

  async writes({ limit, text, state, origin, from, to }: WriteFilter): Promise<readonly WriteRecord[]> {
    const wanted = text?.toLowerCase();
    const found: WriteRecord[] = [];
    for (const entry of [...this.#entries.values()].reverse()) {
      if (found.length === limit) break;
      const said = [entry.tagName, entry.deviceName, entry.who, entry.by, entry.note].join(' ').toLowerCase();
      if (wanted !== undefined && !said.includes(wanted)) continue;
      if ((state !== undefined && entry.state !== state) || (origin !== undefined && entry.origin !== origin)) continue;
      if ((from !== undefined && entry.at < from) || (to !== undefined && entry.at >= to)) continue;
      found.push(entry);
    }
    return found;
  }

  /** Entries as they stood at each line after a number: of one that was completed later there are two. */
  async after(seq: number, most: number): Promise<{ readonly entries: readonly WriteRecord[]; readonly seq: number }> {
    const entries: WriteRecord[] = [];
    let last = seq;
    for await (const line of this.#log.after(seq)) {
      entries.push(recordIn(line));
      last = line.seq;
      if (entries.length === most) break;
    }
    return { entries, seq: last };
  }

  close(): Promise<void> {
    return this.#log.close();
  }

  #remember(entry: WriteRecord): void {
    this.#entries.set(entry.id, entry);
    for (const id of this.#entries.keys()) {
      if (this.#entries.size <= REMEMBERED) break;
      this.#entries.delete(id);
    }
  }
}

function recordIn({ seq: _seq, ...record }: Line): WriteRecord {
  return record as unknown as WriteRecord;
}
