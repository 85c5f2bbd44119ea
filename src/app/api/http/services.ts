/** The services of this process, made in src/server and reached from Next's bundle. */
import type { Services } from '@/services/services.ts';

export function services(): Services {
  const found = (globalThis as Record<symbol, unknown>)[Symbol.for('mill-latch.services')];
  if (!found) throw new Error('The services are not there: start Mill Latch with its own server, not with next.');
  return found as Services;
}
