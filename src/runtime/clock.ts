/** The system's clock as the drivers take it: a step of the wall clock does not make it go back or jump. */
import type { Clock } from '@/drivers/contract.ts';

const origin = Date.now() - performance.now();

export const systemClock: Clock = {
  now: () => Math.round((origin + performance.now()) * 100) / 100,
  after(ms, call) {
    const timer = setTimeout(call, Math.max(0, ms));
    return () => clearTimeout(timer);
  },
};
