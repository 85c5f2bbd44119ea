/** Nodes observed by one subscription. It gives signs of life, and is over when the server says so or the session ends. */
import { nodeIdIn, parseMember, parseNodeAddress, type MemberPath, type NodeAddress } from '@/core/opcua/nodeId.ts';
import { statusInWords } from '@/core/opcua/statusCode.ts';
import type { Clock, Observation, ObservedPoint, Observer } from '../contract.ts';
import type { Connection } from './connection.ts';
import { pointSettingsOf, type Dialect } from './describe.ts';
import type { Library, UaSession, UaValue } from './library.ts';
import { arrivalOf, faultOf } from './values.ts';

type Subscription = InstanceType<Library['ClientSubscription']>;

/** Items that are asked for at once where the server names no limit. */
const MOST_AT_ONCE = 1000;
/** A server that promised a sign is waited for so much longer. */
const GRACE_MS = 1000;
/** Points that come within so many milliseconds are asked for together. */
const GATHER_MS = 5;

/**
 * What a session can too, though its type does not say so. Items are made by the services themselves and their values taken
 * from the notification as a whole: an event of the library for each of thousands costs more than all else.
 */
interface ItemServices {
  createMonitoredItems(request: InstanceType<Library['CreateMonitoredItemsRequest']>): Promise<{ readonly results: readonly CreateResult[] | null }>;
  deleteMonitoredItems(request: InstanceType<Library['DeleteMonitoredItemsRequest']>): Promise<unknown>;
}

type CreateResult = InstanceType<Library['MonitoredItemCreateResult']>;
type Notification = InstanceType<Library['NotificationMessage']>;

interface Watched {
  readonly point: ObservedPoint;
  readonly address: NodeAddress | null;
  readonly member: MemberPath;
  /** What we call the item, in every notification of its values. */
  readonly handle: number;
  /** What the server calls it, once it has it. */
  itemId: number | null;
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
  readonly #byHandle = new Map<number, Watched>();
  #lastHandle = 0;
  /** Settles when the structures of earlier notifications are told. */
  #structures: Promise<void> = Promise.resolve();
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
      const handle = ++this.#lastHandle;
      const watched: Watched = { point, address: address.ok ? address.value : null, member, handle, itemId: null, isGone: false };
      this.#watched.set(point.key, watched);
      this.#byHandle.set(handle, watched);
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
      this.#byHandle.delete(watched.handle);
      if (watched.itemId !== null) ids.push(watched.itemId);
    }
    this.#delete(ids);
  }

  /** Where it fails the items go with the subscription; what still comes of them is not taken. */
  #delete(monitoredItemIds: number[]): void {
    const subscriptionId = this.#subscription?.subscriptionId;
    if (monitoredItemIds.length === 0 || typeof subscriptionId !== 'number') return;
    void this.#services
      .deleteMonitoredItems(new this.#connection.ua.DeleteMonitoredItemsRequest({ subscriptionId, monitoredItemIds }))
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
      subscription.on('raw_notification', (notification) => {
        sign();
        this.#takeAll(notification);
      });
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
    const filter =
      deadband > 0
        ? {
            filter: new ua.DataChangeFilter({
              trigger: ua.DataChangeTrigger.StatusValue,
              deadbandType: ua.DeadbandType.Absolute,
              deadbandValue: deadband,
            }),
          }
        : {};
    const request = new ua.CreateMonitoredItemsRequest({
      subscriptionId: subscription.subscriptionId,
      timestampsToReturn: ua.TimestampsToReturn.Both,
      itemsToCreate: placed.map(({ watched, nodeId }) => ({
        itemToMonitor: { nodeId, attributeId: ua.AttributeIds.Value },
        monitoringMode: ua.MonitoringMode.Reporting,
        requestedParameters: {
          clientHandle: watched.handle,
          samplingInterval: first.point.everyMs,
          queueSize: this.#dialect.queueSize,
          discardOldest: true,
          ...filter,
        },
      })),
    });
    this.#services.createMonitoredItems(request).then(
      ({ results }) =>
        this.#made(
          placed.map(({ watched }) => watched),
          results ?? [],
        ),
      (error: unknown) => {
        const { problem } = faultOf(error);
        for (const { watched } of placed) this.#refuse(watched, problem.code, problem.message, problem.remedy);
      },
    );
  }

  #made(all: readonly Watched[], results: readonly CreateResult[]): void {
    const unwanted: number[] = [];
    for (const [at, watched] of all.entries()) {
      const result = results[at];
      const status = result?.statusCode;
      if (!status || status.value >>> 30 >= 2) {
        const name = status?.name ?? 'BadUnexpectedError';
        const { message, remedy } = statusInWords(name);
        this.#refuse(watched, name, message, remedy);
      } else if (watched.isGone) unwanted.push(result.monitoredItemId);
      else watched.itemId = result.monitoredItemId;
    }
    this.#delete(unwanted);
  }

  #takeAll(notification: Notification): void {
    if (this.#isOver) return;
    const { ua, session } = this.#connection;
    const at = this.#clock.now();
    const changes = (notification.notificationData ?? []).filter((data) => data instanceof ua.DataChangeNotification);
    const structures: (() => void)[] = [];
    for (const data of changes) {
      for (const { clientHandle, value } of data.monitoredItems ?? []) {
        const watched = this.#byHandle.get(clientHandle);
        if (!watched) continue;
        if (value.value.dataType === ua.DataType.ExtensionObject) structures.push(() => this.#take(watched, value, at));
        else this.#take(watched, value, at);
      }
    }
    if (structures.length === 0) return;
    // How a structure lies in its bytes may have to be asked for first.
    this.#structures = this.#structures
      .then(() => ua.promoteOpaqueStructureInNotificationData(session, changes))
      .catch(() => undefined)
      .then(() => {
        for (const take of structures) take();
      });
  }

  #take(watched: Watched, value: UaValue, at: number): void {
    if (watched.isGone || this.#isOver) return;
    const { point, member } = watched;
    this.#observer.sink(point.key, arrivalOf(this.#connection.ua, value, point.type, member, at, 0));
  }

  get #services(): ItemServices {
    return this.#connection.session as UaSession & ItemServices;
  }

  #refuse({ point, isGone }: Watched, code: string, message: string, remedy: string | undefined): void {
    if (isGone || this.#isOver) return;
    const problem = remedy === undefined ? { code, message } : { code, message, remedy };
    this.#observer.sink(point.key, { fault: { kind: 'refused', problem }, at: this.#clock.now() });
  }
}
