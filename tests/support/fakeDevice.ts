/** A device session on the fake clock: registers in the test's hand, silence and delays at will. */
import type { DeviceSession, DriverFault, PointSpec, ReadGroup, Sink, TestStage } from '@/drivers/contract.ts';
import type { FakeClock } from './fakeClock.ts';

export const SILENT: DriverFault = { kind: 'silent', problem: { code: 'timeout', message: 'No reply from unit 1 within 200 ms.' } };

export class FakeDevice implements DeviceSession {
  /** Clock times of the readings, with the tags that were read. */
  readonly readings: { readonly at: number; readonly keys: readonly string[] }[] = [];
  /** Value of a register by canonical address. */
  registers: (canonical: string) => number = () => 7;
  isSilent = false;
  delayMs = 5;
  timeoutMs = 200;

  constructor(private readonly clock: FakeClock) {}

  prepare(points: readonly PointSpec[]): ReadGroup {
    return {
      requestCount: 1,
      read: async (sink: Sink, context) => {
        this.readings.push({ at: this.clock.now(), keys: points.map((p) => p.key) });
        const silent = this.isSilent;
        const values = points.map((p) => this.registers(p.canonical));
        await this.wait(silent ? this.timeoutMs : this.delayMs, context.signal);
        const at = this.clock.now();
        points.forEach((point, i) => {
          const value = values[i] ?? 0;
          if (silent) sink(point.key, { fault: SILENT, at });
          else
            sink(point.key, { wire: { kind: 'bytes', bytes: Uint8Array.of(value >> 8, value & 255) }, torn: false, at, roundTripMs: this.delayMs });
        });
        return silent ? SILENT : null;
      },
    };
  }

  async write(): Promise<DriverFault | null> {
    return null;
  }

  async *test(): AsyncIterable<TestStage> {
    yield { id: 'settings', title: 'Settings', state: 'passed', ms: 0, seen: '' };
  }

  private wait(ms: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const cancel = this.clock.after(ms, resolve);
      signal.addEventListener('abort', () => {
        cancel();
        resolve();
      });
    });
  }
}
