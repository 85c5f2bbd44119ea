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
/** Nodes whose insides are asked for at the same time. */
const AT_ONCE = 4;
const NOTHING_INSIDE = ok<readonly Record<string, unknown>[]>([]);

interface Walk {
  readonly session: DeviceSession;
  readonly context: CallContext;
  /** Tags found so far. */
  count: number;
}

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
    const walk: Walk = { session, context: this.#context(BROWSE_MS), count: 0 };
    const tags = await this.#walk(walk, '', 0);
    if (!tags.ok) return tags;
    const version = await this.programVersion(deviceId);
    return ok(
      new TextEncoder().encode(
        JSON.stringify({ format: LIST_FORMAT, version: LIST_VERSION, ...(version ? { program: { version } } : {}), tags: tags.value }),
      ),
    );
  }

  /** Tags in the order that the device has them; some of what lies beside each other is asked for at the same time. */
  async #walk(walk: Walk, path: string, depth: number): Promise<Result<readonly Record<string, unknown>[]>> {
    const found: Result<readonly BrowsedNode[]> = (await walk.session.browse?.(path, walk.context)) ?? ok([]);
    if (!found.ok) return found;
    const tags: Record<string, unknown>[] = [];
    for (let from = 0; from < found.value.length; from += AT_ONCE) {
      const part = found.value.slice(from, from + AT_ONCE);
      walk.count += part.filter(({ type }) => type !== null).length;
      if (walk.count > MAX_NODES || depth > MAX_DEPTH)
        return fail('too-large', `The device lists more than can be taken: ${MAX_NODES} tags, ${MAX_DEPTH} levels.`, 'Import the list from a file.');
      const inside = await Promise.all(
        part.map((node) => (node.hasChildren ? this.#walk(walk, node.path, depth + 1) : Promise.resolve(NOTHING_INSIDE))),
      );
      for (const [at, node] of part.entries()) {
        if (node.type !== null) tags.push(tagOf(node));
        const more = inside[at];
        if (more && !more.ok) return more;
        if (more?.ok) for (const tag of more.value) tags.push(tag);
      }
    }
    return ok(tags);
  }

  #context(ms: number): CallContext {
    return { signal: AbortSignal.timeout(ms), deadline: this.#clock.now() + ms };
  }
}

/** Numbers that a device tells as text are numbers in a list. */
const NUMBERS = new Set(['length', 'decimals', 'rawLow', 'rawHigh', 'low', 'high', 'period']);
const KNOWN = new Set([...NUMBERS, 'order', 'access', 'unit', 'group', 'comment', 'initial', 'panel', 'enumeration']);

function tagOf({ path, canonical, type, within = [], enumeration, told = {} }: BrowsedNode): Record<string, unknown> {
  const tag: Record<string, unknown> = { name: path, address: canonical, type: type ?? '' };
  if (within.length > 0) tag.within = within;
  if (enumeration) tag.enumeration = enumeration;
  for (const [key, value] of Object.entries(told)) {
    if (value === '' || !KNOWN.has(key)) continue;
    if (key === 'enumeration') {
      const names = parseNames(String(value));
      if (names.ok) tag.names = names.value;
    } else tag[key] = NUMBERS.has(key) ? Number(value) : key === 'panel' ? Boolean(value) : String(value);
  }
  return tag;
}
