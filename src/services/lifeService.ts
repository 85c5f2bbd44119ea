/**
 * A heartbeat of our own for a controller to watch: written every second while the device is open for automatic
 * rules. Its many writes are one entry of the log, completed when they end.
 */
import { v7 as uuid } from 'uuid';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import type { Device } from '@/core/project/entities.ts';
import { toJson } from '@/core/value/engineering.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Writer } from '@/runtime/writer.ts';
import type { RecordStore } from '@/store/recordStore.ts';

const EVERY_MS = 1000;
/** Counts from 0 to 999, which fits every whole type of two bytes. */
const MODULUS = 1000;

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
  readonly #records: RecordStore;
  readonly #clock: Clock;
  readonly #running = new Map<string, Running>();
  readonly #underWay = new Set<Promise<void>>();
  #cancel: () => void = () => undefined;

  constructor(model: ProjectModel, writer: Writer, records: RecordStore, clock: Clock) {
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
    const devices = new Map(this.#model.all('device').flatMap((d) => (d.ownLifeTagId === null ? [] : [[d.id, d]])));
    for (const [id, running] of this.#running)
      if (devices.get(id)?.ownLifeTagId !== running.tagId) this.#follow(this.#end(id, running, 'The heartbeat was taken away.'));
    for (const device of devices.values()) this.#follow(this.#write(device));
  }

  /** What cannot be logged is not counted on; it is tried again with the next beat. */
  #follow(work: Promise<void>): void {
    const followed: Promise<void> = work
      .catch((error: unknown) => console.error('A heartbeat could not be kept:', error))
      .finally(() => this.#underWay.delete(followed));
    this.#underWay.add(followed);
  }

  async #write(device: Device): Promise<void> {
    const tagId = device.ownLifeTagId ?? '';
    const running = this.#running.get(device.id);
    if (running?.busy) return;
    const prepared = this.#writer.prepare(tagId, running?.next ?? 0, { writer: 'rule' });
    if (!prepared.ok) {
      if (running) await this.#end(device.id, running, prepared.problem.message);
      return;
    }
    const current = running ?? (await this.#begin(device, tagId, prepared.value.who));
    current.busy = true;
    const mayStill = (): boolean => this.#writer.prepare(tagId, current.next, { writer: 'rule' }).ok;
    const outcome = await this.#writer.send(prepared.value, { mayStill });
    current.busy = false;
    current.lastProblem = outcome === null ? ' The last one was not sent.' : outcome.state === 'done' ? '' : ` The last one: ${outcome.sentence}`;
    current.count++;
    current.next = (current.next + 1) % MODULUS;
  }

  async #begin(device: Device, tagId: string, who: string): Promise<Running> {
    const record: WriteRecord = {
      id: uuid(),
      at: isoTime(this.#clock),
      tagId,
      tagName: this.#model.get('tag', tagId)?.name ?? '',
      deviceName: device.name,
      origin: 'rule',
      who,
      old: null,
      asked: toJson(0),
      sent: toJson(0),
      held: null,
      state: 'sent',
      note: `Heartbeat, written every ${EVERY_MS / 1000} s.`,
    };
    const running: Running = { record, tagId, count: 0, next: 0, busy: true, lastProblem: '' };
    this.#running.set(device.id, running);
    try {
      await this.#records.addWrite(record);
    } catch (error) {
      this.#running.delete(device.id);
      throw error;
    }
    return running;
  }

  async #end(deviceId: string, running: Running, why: string): Promise<void> {
    if (this.#running.get(deviceId) !== running) return;
    this.#running.delete(deviceId);
    const note = `Heartbeat, written ${running.count} times, every ${EVERY_MS / 1000} s.${running.lastProblem} Ended: ${why}`;
    await this.#records.completeWrite(
      running.record.id,
      running.lastProblem ? 'unknown' : 'done',
      toJson((running.next + MODULUS - 1) % MODULUS),
      note,
    );
  }
}
