/**
 * A sketch of an MQTT driver: shows that the contract carries topics, where values come by themselves, have no
 * request and may never come at all. It speaks to a broker client handed to it; it is not offered to users.
 */
import { object, string } from 'yup';
import { fail, ok } from '@/core/result.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
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

/** What the sketch asks of a broker client: MQTT 5.0 (OASIS) subscribe and publish. */
export interface TopicClient {
  subscribe(topics: readonly string[], message: (topic: string, payload: Uint8Array) => void, signal: AbortSignal): void;
  publish(topic: string, payload: Uint8Array): Promise<boolean>;
}

export const mqttDescription: DriverDescription = {
  id: 'mqtt-sketch',
  label: 'MQTT (sketch)',
  summary: 'Values that come by topic',
  linkSettings: object({ broker: string().required() }),
  deviceSettings: object({ prefix: string().default('') }),
  dialectSettings: object({}),
  capabilities: { write: true, identify: false, browse: false, observe: true },
  help: 'A sketch: nothing to set up yet.',
  dialectGroups: [],
  namedDialects: [],
  notation: {
    forms: 'hall/dust/level',
    // MQTT 5.0, 4.7: a topic name to read one value from holds no wildcard.
    parse: (text) =>
      text.trim() === '' || /[#+]/.test(text)
        ? fail('address-form', 'A topic is a name without # and +.', 'Write hall/dust/level.')
        : ok({ canonical: text.trim(), bit: null, writable: true }),
    explain: (canonical) => `topic ${canonical}`,
    format: (canonical) => canonical,
  },
  target: (link) => String(link.broker),
  origin: (link, device, _dialect, canonical) => ['mqtt', String(link.broker), typeof device.prefix === 'string' ? device.prefix : '', canonical],
  defaultOrder: (_dialect, type) => ORDERS[orderWidth(type) ?? 2][0] ?? 'AB',
  wireInWords: () => 'a text payload',
};

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
