/** What a test of a connection sees of the link: frames, oddities, who else answers; and the evidence that they make. */
import { dissect } from '@/core/modbus/dissect.ts';
import { formOf } from './describe.ts';
import type { Area } from '@/core/modbus/address.ts';
import { crc16 } from '@/core/modbus/checkSums.ts';
import type { Problem } from '@/core/result.ts';
import type { DriverDescription, DriverFault, FrameEvent, FrameOddity, Settings } from '../contract.ts';
import type { Answer } from './channel.ts';
import type { Evidence } from './diagnose.ts';
import type { DeviceAccess } from './readGroup.ts';

/** How long a late reply is waited for after a time-out, to tell slow from silent. */
const LATE_WAIT_MS = 3000;
const FRAMES_KEPT = 12;

export interface TestAccess extends DeviceAccess {
  readonly description: DriverDescription;
  readonly link: Settings;
  readonly settingsProblem: Problem | null;
  /** Null when the connection stands, else why it does not. */
  readonly connected: () => Promise<Problem | null>;
  /** Hears of every frame of the link until what it returns is called. */
  readonly tap: (listener: (frame: FrameEvent) => void) => () => void;
}

/** What is read by a test: one value. */
export interface Target {
  readonly area: Area;
  readonly start: number;
  readonly count: number;
  readonly registerBytes: 2 | 4;
}

/** What came over the link since the test, or its stage, began. */
export class TestWatch {
  readonly #access: TestAccess;
  readonly #end: () => void;
  #frames: FrameEvent[] = [];
  #sentAt: number | null = null;
  #latestMs: number | null = null;
  #others = false;

  constructor(access: TestAccess) {
    this.#access = access;
    this.#end = access.tap((frame) => {
      const unit = this.#unitOf(frame);
      const isOthers = frame.direction === 'received' && unit !== null && unit !== access.unit;
      if (isOthers && (frame.oddity === undefined || frame.oddity === 'late')) this.#others = true;
      // That another unit is slow says nothing of this one.
      if (isOthers && frame.oddity === 'late') return;
      this.#frames.push(frame);
      if (frame.direction === 'sent' && unit === access.unit) this.#sentAt ??= frame.at;
      if (frame.oddity === 'late' && this.#sentAt !== null) this.#latestMs = frame.at - this.#sentAt;
    });
  }

  end(): void {
    this.#end();
  }

  clear(): void {
    this.#frames = [];
    this.#sentAt = null;
    this.#latestMs = null;
  }

  /** The last frames of this device, and whatever was odd. */
  frames(): readonly FrameEvent[] {
    return this.#frames.filter((f) => f.oddity !== undefined || this.#unitOf(f) === this.#access.unit).slice(-FRAMES_KEPT);
  }

  count(oddity: FrameOddity): number {
    return this.#frames.filter((f) => f.oddity === oddity).length;
  }

  /** After a silence: waits until something late has come, or until it no longer will. */
  async waitForLate(fault: DriverFault): Promise<void> {
    if (fault.kind !== 'silent') return;
    const end = this.#access.now() + Math.min(LATE_WAIT_MS, 3 * this.#access.dialect.timeoutMs);
    while (this.#access.now() < end && !this.#frames.some((f) => f.direction === 'received' && f.oddity !== undefined)) await rest(20);
  }

  /** Whether another unit answers: one that is read anyway, or on a network one of the usual numbers. */
  async othersAnswer(ask: (target: Target, over: { readonly unit?: number }) => Promise<Answer>, target: Target): Promise<boolean> {
    if (this.#others) return true;
    if (this.#access.channel.maxDepth === 1) {
      // Others of the line are asked in turn by themselves.
      const end = this.#access.now() + Math.min(1000, this.#access.dialect.timeoutMs);
      while (this.#access.now() < end && !this.#others) await rest(20);
      return this.#others;
    }
    if (this.#frames.some((f) => f.direction === 'received')) return false;
    for (const unit of [255, 1, 0])
      if (unit !== this.#access.unit && !this.#others && this.#access.channel.state.phase === 'connected') {
        const answer = await ask(target, { unit });
        if (answer.ok && !(answer.reply.kind === 'exception' && answer.reply.code >= 0x0a)) this.#others = true;
      }
    return this.#others;
  }

  evidence(answer: Answer, answered = answer.ok ? 1 : 0): Evidence {
    const oddities: Partial<Record<FrameOddity, number>> = {};
    for (const { oddity } of this.#frames) if (oddity) oddities[oddity] = (oddities[oddity] ?? 0) + 1;
    const strangers = this.#frames.flatMap((f) => (f.oddity === 'stranger' ? (this.#unitOf(f) ?? []) : []));
    return {
      medium: this.#access.description.id === 'modbus-serial' ? 'line' : this.#access.description.id === 'modbus-gateway' ? 'gateway' : 'network',
      unit: this.#access.unit,
      timeoutMs: this.#access.dialect.timeoutMs,
      answered,
      silent: !answer.ok && answer.fault.kind === 'silent' ? 1 : 0,
      damaged: !answer.ok && answer.fault.kind === 'malformed' ? 1 : 0,
      oddities,
      latestMs: this.#latestMs,
      strangers: [...new Set(strangers)],
      othersAnswer: this.#others,
      isSerialFrame: this.#frames.some((f) => f.oddity === 'protocol' && isSerialFrame(f.bytes)),
    };
  }

  #unitOf(frame: FrameEvent): number | null {
    return dissect(formOf(this.#access.description.id, this.#access.link), frame.direction, frame.bytes).unit;
  }
}

function isSerialFrame(bytes: Uint8Array): boolean {
  const end = bytes.length - 2;
  return end >= 2 && crc16(bytes, 0, end) === ((bytes[end] ?? 0) | ((bytes[end + 1] ?? 0) << 8));
}

function rest(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
