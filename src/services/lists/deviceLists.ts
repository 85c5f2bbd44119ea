/** What a device says about its own program: its version, and the tags that it lists itself. */
import { fail, ok, type Result } from '@/core/result.ts';
import type { Device, Link } from '@/core/project/entities.ts';
import type { CountingSign } from '@/core/taglist/countingSigns.ts';
import { LIST_FORMAT, LIST_VERSION } from '@/core/taglist/ownJson.ts';
import { parseNames } from '@/core/value/valueNames.ts';
import type { BrowsedNode, CallContext, Clock, DeviceSession } from '@/drivers/contract.ts';
import { liveCountingSign, type CountingProbe } from './liveCounting.ts';

const IDENTIFY_MS = 3000;
const COMPARE_MS = 3000;
const BROWSE_MS = 120_000;
const MAX_NODES = 1_000_000;
const MAX_DEPTH = 32;

export class DeviceLists {
  readonly #session: (deviceId: string) => DeviceSession | null;
  readonly #clock: Clock;

  constructor(session: (deviceId: string) => DeviceSession | null, clock: Clock) {
    this.#session = session;
    this.#clock = clock;
  }

  /** Empty where it says nothing. */
  async programVersion(deviceId: string): Promise<string> {
    const said = await this.#session(deviceId)?.identify?.(this.#context(IDENTIFY_MS));
    return said?.ok ? (said.value.revision ?? '') : '';
  }

  /** What its values say of the numbers of a list; null where it is not there, or says nothing. */
  async countingSign(side: { readonly device: Device; readonly link: Link }, probes: readonly CountingProbe[]): Promise<CountingSign | null> {
    const session = this.#session(side.device.id);
    return session ? liveCountingSign(probes, side, session, this.#context(COMPARE_MS)) : null;
  }

  /** The device's tags as a list in Mill Latch's JSON. */
  async list(deviceId: string): Promise<Result<Uint8Array<ArrayBuffer>>> {
    const session = this.#session(deviceId);
    if (!session) return fail('gone', 'The device is not online.', 'Reload, and try again.');
    if (!session.browse) return fail('no-list', 'A device of this kind cannot list its tags.', 'Import the list from a file.');
    const tags: Record<string, unknown>[] = [];
    const problem = await this.#walk(session, '', 0, this.#context(BROWSE_MS), tags);
    if (!problem.ok) return problem;
    const version = await this.programVersion(deviceId);
    return ok(
      new TextEncoder().encode(JSON.stringify({ format: LIST_FORMAT, version: LIST_VERSION, ...(version ? { program: { version } } : {}), tags })),
    );
  }

  async #walk(session: DeviceSession, path: string, depth: number, context: CallContext, tags: Record<string, unknown>[]): Promise<Result<null>> {
    const found: Result<readonly BrowsedNode[]> = (await session.browse?.(path, context)) ?? ok([]);
    if (!found.ok) return found;
    for (const node of found.value) {
      if (tags.length >= MAX_NODES || depth > MAX_DEPTH)
        return fail('too-large', `The device lists more than can be taken: ${MAX_NODES} tags, ${MAX_DEPTH} levels.`, 'Import the list from a file.');
      if (node.type !== null) tags.push(tagOf(node));
      if (!node.hasChildren) continue;
      const inside = await this.#walk(session, node.path, depth + 1, context, tags);
      if (!inside.ok) return inside;
    }
    return ok(null);
  }

  #context(ms: number): CallContext {
    return { signal: AbortSignal.timeout(ms), deadline: this.#clock.now() + ms };
  }
}

/** Numbers that a device tells as text are numbers in a list. */
const NUMBERS = new Set(['length', 'decimals', 'rawLow', 'rawHigh', 'low', 'high', 'period']);
const KNOWN = new Set([...NUMBERS, 'order', 'access', 'unit', 'group', 'comment', 'initial', 'panel', 'enumeration']);

function tagOf({ path, canonical, type, told = {} }: BrowsedNode): Record<string, unknown> {
  const tag: Record<string, unknown> = { name: path, address: canonical, type: type ?? '' };
  for (const [key, value] of Object.entries(told)) {
    if (value === '' || !KNOWN.has(key)) continue;
    if (key === 'enumeration') {
      const names = parseNames(String(value));
      if (names.ok) tag.names = names.value;
    } else tag[key] = NUMBERS.has(key) ? Number(value) : key === 'panel' ? Boolean(value) : String(value);
  }
  return tag;
}
