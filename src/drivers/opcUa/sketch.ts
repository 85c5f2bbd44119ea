/**
 * A sketch of an OPC UA driver: shows that the contract carries browsed nodes, typed values and subscriptions.
 * It speaks to a client handed to it and opens nothing by itself; it is not offered to users.
 */
import { number, object, string } from 'yup';
import { fail, ok } from '@/core/result.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { orderWidth, ORDERS } from '@/core/value/byteOrder.ts';
import type {
  Arrival,
  BrowsedNode,
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
  Sink,
  TestStage,
  WriteValue,
} from '../contract.ts';

/** What the sketch asks of a client: services of OPC UA Part 4 (IEC 62541-4), reduced to what is used. */
export interface NodeClient {
  read(nodeIds: readonly string[]): Promise<readonly { readonly status: string; readonly value: RawValue | null }[]>;
  write(nodeId: string, value: RawValue): Promise<string>;
  browse(
    nodeId: string,
  ): Promise<readonly { readonly nodeId: string; readonly name: string; readonly type: string | null; readonly isFolder: boolean }[]>;
  monitor(nodeIds: readonly string[], changed: (nodeId: string, value: RawValue) => void, signal: AbortSignal): Promise<void>;
}

const NODE_ID = /^ns=\d{1,5};[isgb]=.{1,200}$/;

export const opcUaDescription: DriverDescription = {
  id: 'opc-ua-sketch',
  label: 'OPC UA (sketch)',
  summary: 'Browsed nodes with subscriptions',
  linkSettings: object({
    endpoint: string()
      .required()
      .matches(/^opc\.tcp:\/\//),
  }),
  deviceSettings: object({}),
  dialectSettings: object({ publishMs: number().min(50).default(500) }),
  capabilities: { write: true, identify: false, browse: true, observe: true },
  help: 'A sketch: nothing to set up yet.',
  dialectGroups: [],
  namedDialects: [],
  notation: {
    forms: 'ns=2;s=Kiln.BedTemp',
    parse: (text) =>
      NODE_ID.test(text.trim())
        ? ok({ canonical: text.trim(), bit: null, writable: true })
        : fail('address-form', `“${text}” is no node id.`, 'Write ns=2;s=Name or ns=2;i=1001.'),
    explain: (canonical) => `node ${canonical}`,
    format: (canonical) => canonical,
  },
  target: (link) => String(link.endpoint),
  origin: (link, _device, _dialect, canonical) => ['opc-ua', String(link.endpoint), canonical],
  defaultOrder: (_dialect, type) => ORDERS[orderWidth(type) ?? 2][0] ?? 'AB',
  wireInWords: () => 'a typed value',
};

export function opcUaDriver(client: NodeClient): Driver {
  return { description: opcUaDescription, createSession: (options) => new NodeSession(options, client) };
}

class NodeSession implements DriverSession {
  state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  constructor(
    private readonly options: SessionOptions,
    private readonly client: NodeClient,
  ) {}
  start(): void {
    this.#become({ phase: 'connected', problem: null, retryAt: null });
  }
  close(): void {
    this.#become({ phase: 'closed', problem: null, retryAt: null });
  }
  device(): DeviceSession {
    return new NodeDevice(this.client, () => this.options.clock.now());
  }
  #become(state: LinkState): void {
    this.state = state;
    this.options.onState(state);
  }
}

class NodeDevice implements DeviceSession {
  constructor(
    private readonly client: NodeClient,
    private readonly now: () => number,
  ) {}

  prepare(points: readonly PointSpec[]): ReadGroup {
    const { client, now } = this;
    return {
      requestCount: points.length > 0 ? 1 : 0,
      async read(sink: Sink): Promise<DriverFault | null> {
        const begun = now();
        const values = await client.read(points.map((p) => p.canonical));
        points.forEach((point, i) => sink(point.key, arrivalOf(values[i], begun, now())));
        return null;
      },
    };
  }

  async write(point: PointSpec, value: WriteValue): Promise<DriverFault | null> {
    const status = await this.client.write(point.canonical, value.raw);
    return status === 'Good' ? null : refusal(status);
  }

  async *test(): AsyncIterable<TestStage> {
    yield { id: 'settings', title: 'Settings', state: 'passed', ms: 0, seen: 'accepted' };
  }

  async browse(path: string): Promise<{ ok: true; value: readonly BrowsedNode[] }> {
    const nodes = await this.client.browse(path);
    return ok(nodes.map((n) => ({ path: n.name, canonical: n.nodeId, type: n.type, hasChildren: n.isFolder }))) as {
      ok: true;
      value: readonly BrowsedNode[];
    };
  }

  observe({ sink, lost }: Observer): Observation {
    const keys = new Map<string, string>();
    const over = new AbortController();
    const take = (nodeId: string, value: RawValue): void => {
      const arrival: Arrival = { wire: { kind: 'typed', value }, torn: false, at: this.now(), roundTripMs: 0 };
      for (const [key, canonical] of keys) if (canonical === nodeId) sink(key, arrival);
    };
    return {
      add: (points) => {
        for (const { key, canonical } of points) keys.set(key, canonical);
        this.client
          .monitor(
            points.map(({ canonical }) => canonical),
            take,
            over.signal,
          )
          .catch((error: unknown) => lost({ kind: 'silent', problem: { code: 'subscription', message: String(error) } }));
      },
      remove: (gone) => gone.forEach((key) => keys.delete(key)),
      close: () => over.abort(),
    };
  }
}

function arrivalOf(read: { readonly status: string; readonly value: RawValue | null } | undefined, begun: number, at: number): Arrival {
  if (!read || read.status !== 'Good' || read.value === null) return { fault: refusal(read?.status ?? 'no result'), at };
  return { wire: { kind: 'typed', value: read.value }, torn: false, at, roundTripMs: at - begun };
}

function refusal(status: string): DriverFault {
  return { kind: 'refused', problem: { code: 'status', message: `The server answers ${status}.` } };
}
