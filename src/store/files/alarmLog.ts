/** How alarms of a panel host stand, and what became of them. A new file begins with how all of them stand. */
import type { AlarmRecord } from '@/core/alarm/alarmLine.ts';
import type { Standing } from '@/core/alarm/alarmState.ts';
import type { AlarmLogFilter } from '../alarmStore.ts';
import { JsonLines, type Line } from './jsonLines.ts';

const OPTIONS = { linesInFile: 5000, files: 20 };
const REMEMBERED = 2000;

export class AlarmLog {
  readonly #log: JsonLines;
  readonly #standings = new Map<string, Standing>();
  /** The newest last. */
  #records: AlarmRecord[] = [];

  private constructor(log: JsonLines, recent: readonly Line[]) {
    this.#log = log;
    for (const line of recent) this.#take(line);
    log.beginning = () => [...this.#standings].map(([alarmId, standing]) => ({ alarmId, standing }));
  }

  static async open(folder: string): Promise<AlarmLog> {
    const { log, recent } = await JsonLines.open(folder, 'alarms', OPTIONS);
    return new AlarmLog(log, recent);
  }

  async standings(): Promise<ReadonlyMap<string, Standing>> {
    return new Map(this.#standings);
  }

  async keep(alarmId: string, standing: Standing, event: Omit<AlarmRecord, 'seq' | 'alarmId'>): Promise<void> {
    const seq = (this.#records.at(-1)?.seq ?? 0) + 1;
    this.#standings.set(alarmId, standing);
    this.#remember({ ...event, seq, alarmId });
    await this.#log.append({ alarmId, standing, event: { ...event, seq } });
  }

  forget(alarmId: string): void {
    this.#standings.delete(alarmId);
    this.#log.append({ alarmId, standing: null }).catch((error: unknown) => console.error('An alarm could not be forgotten:', error));
  }

  async records({ limit, text, alarmId }: AlarmLogFilter): Promise<readonly AlarmRecord[]> {
    const wanted = text?.toLowerCase();
    return [...this.#records]
      .reverse()
      .filter((one) => alarmId === undefined || one.alarmId === alarmId)
      .filter((one) => wanted === undefined || [one.text, one.group, one.by, one.note].join(' ').toLowerCase().includes(wanted))
      .slice(0, limit);
  }

  close(): Promise<void> {
    return this.#log.close();
  }

  #take({ alarmId, standing, event }: Line): void {
    if (typeof alarmId !== 'string') return;
    if (standing === null) this.#standings.delete(alarmId);
    else this.#standings.set(alarmId, standing as Standing);
    if (event) this.#remember({ ...(event as Omit<AlarmRecord, 'alarmId'>), alarmId });
  }

  #remember(record: AlarmRecord): void {
    this.#records.push(record);
    if (this.#records.length > 2 * REMEMBERED) this.#records = this.#records.slice(-REMEMBERED);
  }
}
