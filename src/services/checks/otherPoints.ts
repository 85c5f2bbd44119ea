/** Other points of a tag's device, read beside the scan: what another name in its place would show. */
import { isSibling, likeness, type OtherPoint, type OtherPoints } from '@/core/check/mistakes/otherPoints.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { BrowsedNode, DeviceSession } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';

/** How long reading, and listing what a device has, may take. */
const READ_MS = 2000;
const LIST_MS = 5000;
/** For how long the list of a device is believed. */
const LISTED_MS = 60_000;
const MOST_LIKELY = 48;
const MOST_READ = 400;
const MOST_LISTED = 4000;
const DEEPEST = 8;

interface Listed {
  readonly at: number;
  readonly session: DeviceSession;
  readonly points: Promise<PointList>;
}
/** What a device lists. */
interface PointList {
  readonly named: readonly Named[];
  /** All addresses, also of what has no value that can be read. */
  readonly addresses: ReadonlySet<string>;
  readonly isWhole: boolean;
}
interface Named {
  readonly canonical: string;
  readonly name: string;
  readonly type: DataType;
}

export class OtherPointReader {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #listed = new Map<string, Listed>();

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
  }

  /**
   * @param which `likely`: those whose addresses differ in their numbers alone, and some that are likely taken for it; `all`: many more
   * @returns null where its source gives bytes, which have neighbours and no names
   */
  async around(tag: Tag, signal: EffectiveSignal, which: 'likely' | 'all'): Promise<OtherPoints | null> {
    const deviceId = deviceIdOf(tag);
    const session = deviceId === null ? null : this.#engine.session(deviceId);
    if (deviceId === null || !session || !signal.def.isTyped) return null;
    const own = signal.canonical;
    const known = new Map<string, Named>();
    for (const each of this.#model.tagsOn(deviceId)) {
      const other = this.#model.effective(each.id);
      if (!other.ok) continue;
      const { canonical, def } = other.value;
      if (each.id !== tag.id) known.set(canonical, { canonical, name: each.name, type: def.type });
    }
    const list = await this.#list(deviceId, session);
    for (const node of list.named) known.set(node.canonical, known.get(node.canonical) ?? node);
    const isListed = list.addresses.has(own);
    const listsOwn = isListed || (list.isWhole && list.addresses.size > 0) ? isListed : null;
    const isMeant = (type: DataType): boolean =>
      (signal.def.type.kind === 'text') === (type.kind === 'text') && (signal.def.type.kind === 'boolean') === (type.kind === 'boolean');
    const wanted = [...known.values()]
      .filter(({ type }) => isMeant(type))
      .map((node) => ({ node, like: likeness(own, node.canonical) + (isSibling(own, node.canonical) ? 1 : 0) }))
      .sort((a, b) => b.like - a.like)
      .slice(0, which === 'all' ? MOST_READ : MOST_LIKELY)
      .map(({ node }) => node);
    return wanted.length === 0 ? null : { own, listsOwn, points: await this.#read(session, wanted) };
  }

  async #read(session: DeviceSession, wanted: readonly Named[]): Promise<ReadonlyMap<string, OtherPoint>> {
    const byKey = new Map(wanted.map((node) => [node.canonical, node]));
    const read = new Map<string, OtherPoint>();
    const points = wanted.map(({ canonical, type }) => ({ key: canonical, canonical, type }));
    await session
      .prepare(points)
      .read(
        (key, arrival) => {
          const node = byKey.get(key);
          if (node && 'wire' in arrival) read.set(key, { name: node.name, type: node.type, wire: arrival.wire });
        },
        { signal: AbortSignal.timeout(READ_MS), deadline: this.#engine.clock.now() + READ_MS },
      )
      .catch(() => null);
    return read;
  }

  /** What the device lists, asked for at most once a minute. */
  #list(deviceId: string, session: DeviceSession): Promise<PointList> {
    const now = this.#engine.clock.now();
    const known = this.#listed.get(deviceId);
    if (known && known.session === session && now - known.at < LISTED_MS) return known.points;
    const points = this.#browse(session);
    this.#listed.set(deviceId, { at: now, session, points });
    return points;
  }

  async #browse(session: DeviceSession): Promise<PointList> {
    const addresses = new Set<string>();
    if (!session.browse) return { named: [], addresses, isWhole: false };
    const context = { signal: AbortSignal.timeout(LIST_MS), deadline: this.#engine.clock.now() + LIST_MS };
    const found: Named[] = [];
    let level: readonly string[] = [''];
    let isWhole = true;
    for (let depth = 0; depth < DEEPEST && level.length > 0 && found.length < MOST_LISTED; depth++) {
      const inside: string[] = [];
      for (const path of level) {
        const nodes = await session.browse(path, context).catch(() => null);
        if (!nodes?.ok) {
          isWhole = false;
          continue;
        }
        for (const node of nodes.value) {
          addresses.add(node.canonical);
          found.push(...namedOf(node));
          if (node.hasChildren) inside.push(node.path);
        }
        if (found.length >= MOST_LISTED) break;
      }
      level = inside;
    }
    return { named: found, addresses, isWhole: isWhole && level.length === 0 && found.length < MOST_LISTED };
  }
}

function namedOf({ path, canonical, type }: BrowsedNode): readonly Named[] {
  const known = type === null ? null : parseDataType(type);
  return known?.ok ? [{ canonical, name: path, type: known.value }] : [];
}
