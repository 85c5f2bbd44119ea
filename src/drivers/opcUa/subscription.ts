/** Nodes observed by one subscription. It gives signs of life, and is over when the server says so or the session ends. */
import { nodeIdIn, parseMember, parseNodeAddress, type MemberPath, type NodeAddress } from '@/core/opcua/nodeId.ts';
import { statusInWords } from '@/core/opcua/statusCode.ts';
import type { Clock, Observation, ObservedPoint, Observer } from '../contract.ts';
import type { Connection } from './connection.ts';
import { pointSettingsOf, type Dialect } from './describe.ts';
import type { ItemGroup, Library, UaValue } from './library.ts';
import { arrivalOf, faultOf } from './values.ts';

type Subscription = InstanceType<Library['ClientSubscription']>;

/** Items that are asked for at once where the server names no limit. */
const MOST_AT_ONCE = 1000;
/** A server that promised a sign is waited for so much longer. */
const GRACE_MS = 1000;
/** Points that come within so many milliseconds are asked for together. */
const GATHER_MS = 5;

/** What a session can too, though its type does not say so. */
interface RawSubscriptions {
  deleteMonitoredItems(request: InstanceType<Library['DeleteMonitoredItemsRequest']>): Promise<unknown>;
}

interface Watched {
  readonly point: ObservedPoint;
  readonly address: NodeAddress | null;
  readonly member: MemberPath;
  /** What the server calls the item, once it has it. */
  item: { readonly monitoredItemId?: number } | null;
  isGone: boolean;
}

export function observeNodes(connection: Connection, dialect: Dialect, clock: Clock, observer: Observer): Observation {
  return new NodeObservation(connection, dialect, clock, observer);
}

class NodeObservation implements Observation {
  readonly #connection: Connection;
  readonly #dialect: Dialect;
  readonly #clock: Clock;
  readonly #observer: Observer;
  readonly #watched = new Map<string, Watched>();
  #subscription: Subscription | null = null;
  #waiting: Watched[] = [];
  #isGathering = false;
  #isOver = false;

  constructor(connection: Connection, dialect: Dialect, clock: Clock, observer: Observer) {
    [this.#connection, this.#dialect, this.#clock, this.#observer] = [connection, dialect, clock, observer];
    void this.#begin();
  }

  add(points: readonly ObservedPoint[]): void {
    for (const point of points) {
      const address = parseNodeAddress(point.canonical);
      const member = parseMember(address.ok ? address.value.member : '');
      const watched: Watched = { point, address: address.ok ? address.value : null, member, item: null, isGone: false };
      this.#watched.set(point.key, watched);
      this.#waiting.push(watched);
    }
    this.#gather();
  }

  remove(keys: readonly string[]): void {
    const ids: number[] = [];
    for (const key of keys) {
      const watched = this.#watched.get(key);
      if (!watched) continue;
      watched.isGone = true;
      this.#watched.delete(key);
      if (watched.item?.monitoredItemId !== undefined) ids.push(watched.item.monitoredItemId);
    }
    const subscriptionId = this.#subscription?.subscriptionId;
    if (ids.length === 0 || typeof subscriptionId !== 'number') return;
    // Where it fails the item goes with the subscription; what still comes of it is not taken.
    const raw = this.#connection.session as unknown as RawSubscriptions;
    void raw
      .deleteMonitoredItems(new this.#connection.ua.DeleteMonitoredItemsRequest({ subscriptionId, monitoredItemIds: ids }))
      .catch(() => undefined);
  }

  close(): void {
    if (this.#isOver) return;
    this.#isOver = true;
    void this.#subscription?.terminate().catch(() => undefined);
  }

  async #begin(): Promise<void> {
    const { session } = this.#connection;
    const { publishMs, aliveMs } = this.#dialect;
    const keepAlive = Math.max(1, Math.round(aliveMs / publishMs));
    try {
      const subscription = await session.createSubscription2({
        requestedPublishingInterval: publishMs,
        requestedMaxKeepAliveCount: keepAlive,
        requestedLifetimeCount: Math.max(3 * keepAlive, 60),
        maxNotificationsPerPublish: 0,
        publishingEnabled: true,
        priority: 1,
      });
      if (this.#isOver) return void (await subscription.terminate());
      this.#subscription = subscription;
      const sign = (): void => {
        if (this.#isOver) return;
        const { publishingInterval, maxKeepAliveCount } = subscription;
        this.#observer.alive(publishingInterval * (maxKeepAliveCount + 1) + GRACE_MS);
      };
      subscription.on('keepalive', sign);
      subscription.on('raw_notification', sign);
      subscription.on('terminated', () => this.#lost(new Error('The subscription has ended.')));
      subscription.on('status_changed', (status) => this.#lost(new Error(status.name)));
      subscription.on('internal_error', (error) => this.#lost(error));
      sign();
      this.#gather();
    } catch (error) {
      this.#lost(error);
    }
  }

  #lost(error: unknown): void {
    if (this.#isOver) return;
    this.#isOver = true;
    this.#observer.lost(faultOf(error));
  }

  #gather(): void {
    if (!this.#subscription || this.#isGathering || this.#waiting.length === 0) return;
    this.#isGathering = true;
    this.#clock.after(GATHER_MS, () => {
      this.#isGathering = false;
      const waiting = this.#waiting.filter(({ isGone }) => !isGone);
      this.#waiting = [];
      const atOnce = Math.min(MOST_AT_ONCE, this.#connection.limits.monitor);
      for (let from = 0; from < waiting.length; from += atOnce) this.#monitor(waiting.slice(from, from + atOnce));
    });
  }

  /** Those with the same sampling interval and dead band go together. */
  #monitor(all: readonly Watched[]): void {
    const byHow = new Map<string, Watched[]>();
    for (const watched of all) {
      const how = `${watched.point.everyMs} ${pointSettingsOf(watched.point.settings ?? {}).deadband}`;
      const same = byHow.get(how);
      if (same) same.push(watched);
      else byHow.set(how, [watched]);
    }
    for (const same of byHow.values()) this.#monitorAlike(same);
  }

  #monitorAlike(all: readonly Watched[]): void {
    const { ua, namespaces } = this.#connection;
    const subscription = this.#subscription;
    const first = all[0];
    if (!subscription || !first || this.#isOver) return;
    const placed = all.flatMap((watched) => {
      const nodeId = watched.address && nodeIdIn(watched.address, namespaces);
      if (nodeId !== null) return [{ watched, nodeId }];
      this.#refuse(watched, 'namespace', 'The server has no such namespace now.', 'Browse it again: its program may have been changed.');
      return [];
    });
    if (placed.length === 0) return;
    const { deadband } = pointSettingsOf(first.point.settings ?? {});
    const group: ItemGroup = ua.ClientMonitoredItemGroup.create(
      subscription,
      placed.map(({ nodeId }) => ({ nodeId, attributeId: ua.AttributeIds.Value })),
      {
        samplingInterval: first.point.everyMs,
        queueSize: this.#dialect.queueSize,
        discardOldest: true,
        ...(deadband > 0
          ? {
              filter: new ua.DataChangeFilter({
                trigger: ua.DataChangeTrigger.StatusValue,
                deadbandType: ua.DeadbandType.Absolute,
                deadbandValue: deadband,
              }),
            }
          : {}),
      },
      ua.TimestampsToReturn.Both,
    );
    group.on('changed', (_item, value: UaValue, index: number) => {
      const watched = placed[index]?.watched;
      if (watched && !watched.isGone && !this.#isOver) this.#take(watched, value);
    });
    group.on('initialized', () => {
      for (const [at, item] of group.monitoredItems.entries()) {
        const watched = placed[at]?.watched;
        if (!watched) continue;
        watched.item = item;
        const status = item.statusCode;
        if (status && status.value >>> 30 >= 2) {
          const { message, remedy } = statusInWords(status.name);
          this.#refuse(watched, status.name, message, remedy);
        }
      }
    });
    group.on('err', (message: string) => {
      for (const { watched } of placed) {
        const { problem } = faultOf(new Error(message));
        this.#refuse(watched, problem.code, problem.message, problem.remedy);
      }
    });
  }

  #take({ point, member }: Watched, value: UaValue): void {
    this.#observer.sink(point.key, arrivalOf(this.#connection.ua, value, point.type, member, this.#clock.now(), 0));
  }

  #refuse({ point, isGone }: Watched, code: string, message: string, remedy: string | undefined): void {
    if (isGone || this.#isOver) return;
    const problem = remedy === undefined ? { code, message } : { code, message, remedy };
    this.#observer.sink(point.key, { fault: { kind: 'refused', problem }, at: this.#clock.now() });
  }
}
