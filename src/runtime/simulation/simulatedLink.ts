/** A device that is not there, for desk work: its values are the simulator's, at once, and nothing goes over any link. */
import type { Result } from '@/core/result.ts';
import type { Clock, DeviceSession, DriverFault, DriverSession, PointSpec } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { Simulator } from './simulator.ts';

/** @param signalOf the tag of a point, as it is now */
export function simulatedDevice(simulator: Simulator, signalOf: (tagId: string) => Result<EffectiveSignal>, clock: Clock): DeviceSession {
  const refused = (code: string, message: string): DriverFault => ({ kind: 'refused', problem: { code, message } });
  return {
    prepare: (points: readonly PointSpec[]) => ({
      requestCount: 0,
      read: async (sink) => {
        for (const { key } of points) {
          const at = clock.now();
          const signal = signalOf(key);
          const wire = signal.ok ? simulator.wire(key, signal.value) : signal;
          sink(
            key,
            wire.ok ? { wire: wire.value, torn: false, at, roundTripMs: 0 } : { fault: refused(wire.problem.code, wire.problem.message), at },
          );
        }
        return null;
      },
    }),
    write: async ({ key }, { raw }) => {
      const signal = signalOf(key);
      if (!signal.ok) return refused(signal.problem.code, signal.problem.message);
      simulator.write(key, signal.value, raw);
      return null;
    },
    async *test() {
      yield { id: 'simulated', title: 'Simulated', state: 'noted', ms: 0, seen: 'The device is simulated: nothing was asked of the machine.' };
    },
    isThere: async () => null,
  };
}

/** A link over which nothing goes, since all its devices are simulated. */
export function restingLink(clock: Clock): DriverSession {
  const gone: DriverFault = { kind: 'link-down', problem: { code: 'simulated', message: 'All devices of the link are simulated.' } };
  return {
    start: () => undefined,
    close: () => undefined,
    state: { phase: 'closed', problem: null, retryAt: null },
    device: () => ({
      prepare: (points) => ({
        requestCount: 0,
        read: async (sink) => {
          for (const { key } of points) sink(key, { fault: gone, at: clock.now() });
          return gone;
        },
      }),
      write: async () => gone,
      async *test() {
        yield { id: 'simulated', title: 'Simulated', state: 'noted', ms: 0, seen: gone.problem.message };
      },
    }),
  };
}
