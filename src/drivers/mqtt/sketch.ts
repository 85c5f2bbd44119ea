/**
 * A sketch of an MQTT driver: shows that the contract carries topics, where values come by themselves, have no
 * request and may never come at all. It speaks to a broker client handed to it; it is not offered to users.
 */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import { NO_SETTINGS, settingsSchema } from '@/core/manifest/settingsSchema.ts';
import type {
  DeviceSession,
  Driver,
  DriverDescription,
  DriverFault,
  DriverSession,
  LinkState,
  Observation,
  Observer,
  PointSpec,
  ReadGroup,
  SessionOptions,
  TestStage,
  WriteValue,
} from '../contract.ts';
import { describedBy } from '../describedBy.ts';

/** What the sketch asks of a broker client: MQTT 5.0 (OASIS) subscribe and publish. */
export interface TopicClient {
  subscribe(topics: readonly string[], message: (topic: string, payload: Uint8Array) => void, signal: AbortSignal): void;
  publish(topic: string, payload: Uint8Array): Promise<boolean>;
}

/** Nothing but data: addresses, settings and what identifies a value follow from it. */
const MANIFEST: DriverManifest = {
  id: 'mqtt-sketch',
  label: 'MQTT (sketch)',
  summary: 'Values that come by topic',
  help: 'A sketch: nothing to set up yet.',
  link: settingsSchema('A broker', { broker: { type: 'string', title: 'Broker', description: 'Name or address of the broker.', format: 'host' } }),
  device: settingsSchema('A device behind a broker', {
    prefix: { type: 'string', title: 'Prefix', description: 'What the topics of the device begin with.', default: '' },
  }),
  dialect: NO_SETTINGS,
  point: NO_SETTINGS,
  dialectGroups: [],
  namedDialects: [],
  // MQTT 5.0, 4.7: a topic name to read one value from holds no wildcard.
  address: { forms: 'hall/dust/level', pattern: '[^#+]+', ignoresCase: false, explains: 'topic {address}' },
  capabilities: { write: true, identify: false, browse: false, observe: true, confirms: { by: 'telling', withinMs: 2000 } },
  targetForm: '{broker}',
  partyForm: '',
};
export const mqttDescription: DriverDescription = describedBy(MANIFEST);

export function mqttDriver(client: TopicClient): Driver {
  return { description: mqttDescription, createSession: (options) => new TopicSession(options, client) };
}

class TopicSession implements DriverSession {
  state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  constructor(
    private readonly options: SessionOptions,
    private readonly client: TopicClient,
  ) {}
  start(): void {
    this.state = { phase: 'connected', problem: null, retryAt: null };
    this.options.onState(this.state);
  }
  close(): void {
    this.state = { phase: 'closed', problem: null, retryAt: null };
    this.options.onState(this.state);
  }
  device(): DeviceSession {
    return new TopicDevice(this.options, this.client);
  }
}

class TopicDevice implements DeviceSession {
  readonly #last = new Map<string, { readonly text: string; readonly at: number }>();
  constructor(
    private readonly options: SessionOptions,
    private readonly client: TopicClient,
  ) {}

  /** Reading is looking at what has come so far: nothing yet is silence, not a value. */
  prepare(points: readonly PointSpec[]): ReadGroup {
    return {
      requestCount: 0,
      read: async (sink) => {
        for (const point of points) {
          const last = this.#last.get(point.canonical);
          const at = this.options.clock.now();
          sink(
            point.key,
            last
              ? { wire: { kind: 'text', text: last.text }, torn: false, at: last.at, roundTripMs: 0 }
              : { fault: { kind: 'silent', problem: { code: 'no-message', message: `Nothing has come on ${point.canonical} yet.` } }, at },
          );
        }
        return null;
      },
    };
  }

  async write(point: PointSpec, value: WriteValue): Promise<DriverFault | null> {
    const taken = await this.client.publish(point.canonical, new TextEncoder().encode(String(value.raw)));
    return taken ? null : { kind: 'unknown', problem: { code: 'write-unknown', message: 'The broker did not confirm.' } };
  }

  async *test(): AsyncIterable<TestStage> {
    yield { id: 'settings', title: 'Settings', state: 'passed', ms: 0, seen: 'accepted' };
  }

  observe({ sink }: Observer): Observation {
    const keys = new Map<string, string>();
    const over = new AbortController();
    const take = (topic: string, payload: Uint8Array): void => {
      const text = new TextDecoder().decode(payload);
      const at = this.options.clock.now();
      this.#last.set(topic, { text, at });
      for (const [key, canonical] of keys) if (canonical === topic) sink(key, { wire: { kind: 'text', text }, torn: false, at, roundTripMs: 0 });
    };
    return {
      add: (points) => {
        for (const { key, canonical } of points) keys.set(key, canonical);
        this.client.subscribe(
          points.map(({ canonical }) => canonical),
          take,
          over.signal,
        );
      },
      remove: (gone) => gone.forEach((key) => keys.delete(key)),
      close: () => over.abort(),
    };
  }
}
