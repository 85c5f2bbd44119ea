/**
 * Heartbeats of our own for controllers to watch: that of a device is written every second while it is open for automatic rules, that
 * of a panel while a screen shows it and the device is open for panels. Its many writes are one entry of the log, completed
 * when they end.
 */
import { v7 as uuid } from 'uuid';
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { toJson } from '@/core/value/engineering.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Writer } from '@/runtime/writer.ts';
import type { RecordStore } from '@/store/recordStore.ts';

const EVERY_MS = 1000;
/** Counts from 0 to 999, which fits every whole type of two bytes. */
const MODULUS = 1000;

type WriteRecords = Pick<RecordStore, 'addWrite' | 'completeWrite'>;

/** What beats: a device, or a panel that is shown. */
interface Beating {
  readonly id: string;
  readonly tagId: string;
  readonly writer: Permitted;
}

interface Running {
  readonly record: WriteRecord;
  readonly tagId: string;
  count: number;
  next: number;
  busy: boolean;
  lastProblem: string;
}

export class LifeService {
  readonly #model: ProjectModel;
  readonly #writer: Writer;
  readonly #records: WriteRecords;
  readonly #clock: Clock;
  readonly #running = new Map<string, Running>();
  readonly #underWay = new Set<Promise<void>>();
  readonly #shownPanels: () => readonly string[];
  #cancel: () => void = () => undefined;

  /** @param shownPanels those that screens show now */
  constructor(model: ProjectModel, writer: Writer, records: WriteRecords, clock: Clock, shownPanels: () => readonly string[]) {
    this.#shownPanels = shownPanels;
    this.#model = model;
    this.#writer = writer;
    this.#records = records;
    this.#clock = clock;
  }

  start(): void {
    this.#cancel = this.#clock.after(EVERY_MS, () => {
      this.#beat();
      this.start();
    });
  }

  async close(): Promise<void> {
    this.#cancel();
    await Promise.all(this.#underWay);
    await Promise.all([...this.#running].map(([id, running]) => this.#end(id, running, 'The server ended.')));
  }

  #beat(): void {
    const beating = new Map(this.#beating().map((one) => [one.id, one]));
    for (const [id, running] of this.#running)
      if (beating.get(id)?.tagId !== running.tagId) this.#follow(this.#end(id, running, 'Nothing beats any more.'));
    for (const one of beating.values()) this.#follow(this.#write(one));
  }

  #beating(): readonly Beating[] {
    const shown = new Set(this.#shownPanels());
    return [
      ...this.#model
        .all('device')
        .flatMap(({ id, ownLifeTagId }) => (ownLifeTagId === null ? [] : [{ id, tagId: ownLifeTagId, writer: 'rule' as const }])),
      ...this.#model
        .all('panelWord')
        .flatMap(({ panelId, role, tagId }) => (role === 'life' && shown.has(panelId) ? [{ id: panelId, tagId, writer: 'panel' as const }] : [])),
    ];
  }

  /** What cannot be logged is not counted on; it is tried again with the next beat. */
  #follow(work: Promise<void>): void {
    const followed: Promise<void> = work
      .catch((error: unknown) => console.error('A heartbeat could not be kept:', error))
      .finally(() => this.#underWay.delete(followed));
    this.#underWay.add(followed);
  }

  async #write({ id, tagId, writer }: Beating): Promise<void> {
    const running = this.#running.get(id);
    if (running?.busy) return;
    const prepared = this.#writer.prepare(tagId, running?.next ?? 0, { writer });
    if (!prepared.ok) {
      if (running) await this.#end(id, running, prepared.problem.message);
      return;
    }
    const current = running ?? (await this.#begin({ id, tagId, writer }, prepared.value.who));
    current.busy = true;
    const mayStill = (): boolean => this.#writer.prepare(tagId, current.next, { writer }).ok;
    const outcome = await this.#writer.send(prepared.value, { mayStill });
    current.busy = false;
    current.lastProblem = outcome === null ? ' The last one was not sent.' : outcome.state === 'done' ? '' : ` The last one: ${outcome.sentence}`;
    current.count++;
    current.next = (current.next + 1) % MODULUS;
  }

  async #begin({ id, tagId, writer }: Beating, who: string): Promise<Running> {
    const tag = this.#model.get('tag', tagId);
    const record: WriteRecord = {
      id: uuid(),
      at: isoTime(this.#clock),
      tagId,
      tagName: tag?.name ?? '',
      deviceName: this.#model.get('device', (tag && deviceIdOf(tag)) ?? '')?.name ?? '',
      origin: writer,
      who,
      by: '',
      host: '',
      old: null,
      asked: toJson(0),
      sent: toJson(0),
      held: null,
      state: 'sent',
      note: `Heartbeat, written every ${EVERY_MS / 1000} s.`,
    };
    const running: Running = { record, tagId, count: 0, next: 0, busy: true, lastProblem: '' };
    this.#running.set(id, running);
    try {
      await this.#records.addWrite(record);
    } catch (error) {
      this.#running.delete(id);
      throw error;
    }
    return running;
  }

  async #end(id: string, running: Running, why: string): Promise<void> {
    if (this.#running.get(id) !== running) return;
    this.#running.delete(id);
    const note = `Heartbeat, written ${running.count} times, every ${EVERY_MS / 1000} s.${running.lastProblem} Ended: ${why}`;
    await this.#records.completeWrite(
      running.record.id,
      running.lastProblem ? 'unknown' : 'done',
      toJson((running.next + MODULUS - 1) % MODULUS),
      note,
    );
  }
}
