/**
 * A driver that is nothing but a manifest and a session in memory: no function of its own says how addresses are written, where
 * a link leads or what identifies a value. All that is general must come from its manifest.
 */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import { NO_SETTINGS, settingsSchema } from '@/core/manifest/settingsSchema.ts';
import { fail, ok } from '@/core/result.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type {
  Arrival,
  CallContext,
  DeviceSession,
  Driver,
  DriverFault,
  DriverSession,
  LinkState,
  Observation,
  Observer,
  PointSpec,
  PointWrite,
  SessionOptions,
  Settings,
} from '@/drivers/contract.ts';
import { describedBy } from '@/drivers/describedBy.ts';

export const MOCK_MANIFEST: DriverManifest = {
  id: 'mock-cells',
  label: 'Cells',
  summary: 'Named cells in memory',
  help: '**Cells** are told by name.',
  link: settingsSchema('A store of cells', {
    shelf: { type: 'string', title: 'Shelf', description: 'Which shelf of cells.', default: 'main' },
    who: {
      type: 'string',
      title: 'Signed in as',
      description: 'Whether the shelf asks who reads it.',
      default: 'nobody',
      oneOf: [
        { const: 'nobody', title: 'nobody' },
        { const: 'user', title: 'a user' },
      ],
    },
    password: {
      type: 'string',
      title: 'Password',
      description: 'Of the user.',
      default: '',
      writeOnly: true,
      'x-when': { setting: 'who', is: ['user'] },
    },
  }),
  device: settingsSchema('A row of cells', {
    row: { type: 'integer', title: 'Row', description: 'The row of the shelf, from 1.', default: 1, minimum: 1, maximum: 20 },
    checked: { type: 'boolean', title: 'Checked', description: 'Whether its cells are checked.', default: true },
    skips: {
      type: 'array',
      title: 'Skipped',
      description: 'Cells that are not there.',
      items: { type: 'string', pattern: '^[a-z_]+$' },
      default: [],
      maxItems: 5,
    },
  }),
  dialect: NO_SETTINGS,
  point: settingsSchema('A cell', {
    side: {
      type: 'string',
      title: 'Side',
      description: 'Which side of the cell.',
      default: 'front',
      oneOf: [
        { const: 'front', title: 'front' },
        { const: 'back', title: 'back' },
      ],
    },
  }),
  dialectGroups: [],
  namedDialects: [],
  address: { forms: 'cell:bed_temp', pattern: 'cell:[a-z_0-9]+', ignoresCase: true, readOnly: 'cell:.*_ro', explains: 'the cell {address}' },
  capabilities: { write: true, identify: true, browse: true, observe: true, confirms: { by: 'asking' } },
  targetForm: 'shelf {shelf}',
  partyForm: 'row {row}',
};

/** What lies in the cells, with what was seen of the settings that sessions were made with. */
export class MockCells {
  readonly values = new Map<string, RawValue>();
  /** What each session of a link was told as its password. */
  readonly passwords: unknown[] = [];
  /** What a device does with a write, its answer included; takes it unless it says otherwise. */
  onWrite: (canonical: string, raw: RawValue) => DriverFault | null = (canonical, raw) => (this.set(canonical, raw), null);
  /** What was asked of devices: `read cell:a`, `write cell:a`, and `write cell:a cell:b` for what went together. */
  readonly asked: string[] = [];
  readonly driver: Driver;
  readonly #goesTogether: boolean;
  readonly #observers = new Set<(canonical: string) => void>();

  /** @param over what its manifest has otherwise */
  constructor(over: Partial<DriverManifest> = {}, goesTogether = false) {
    this.#goesTogether = goesTogether;
    this.driver = { description: describedBy({ ...MOCK_MANIFEST, ...over }), createSession: (options) => this.#session(options) };
  }

  set(canonical: string, value: RawValue): void {
    this.values.set(canonical, value);
    for (const told of this.#observers) told(canonical);
  }

  #session({ settings, clock, onState }: SessionOptions): DriverSession {
    this.passwords.push(settings.password);
    let state: LinkState = { phase: 'closed', problem: null, retryAt: null };
    const become = (phase: LinkState['phase']): void => onState((state = { phase, problem: null, retryAt: null }));
    return {
      get state() {
        return state;
      },
      start: () => become('connected'),
      close: () => become('closed'),
      device: (device) => this.#device(device, () => clock.now()),
    };
  }

  #device(_settings: Settings, now: () => number): DeviceSession {
    const arrivalOf = ({ canonical, settings }: PointSpec): Arrival => {
      const value = this.values.get(settings?.side === 'back' ? `${canonical}/back` : canonical);
      return value === undefined
        ? { fault: { kind: 'refused', problem: { code: 'no-cell', message: `There is no ${canonical}.` } }, at: now() }
        : { wire: { kind: 'typed', value }, torn: false, at: now(), roundTripMs: 0, sourceAt: now() - 20 };
    };
    return {
      prepare: (points) => ({
        requestCount: 1,
        read: async (sink) => {
          this.asked.push(`read ${points.map(({ canonical }) => canonical).join(' ')}`);
          for (const point of points) sink(point.key, arrivalOf(point));
          return null;
        },
      }),
      write: async ({ canonical }, { raw }) => {
        this.asked.push(`write ${canonical}`);
        return this.onWrite(canonical, raw);
      },
      ...(this.#goesTogether
        ? {
            writeAll: async (writes: readonly PointWrite[]) => {
              this.asked.push(`write ${writes.map(({ point }) => point.canonical).join(' ')}`);
              return writes.map(({ point, value }) => this.onWrite(point.canonical, value.raw));
            },
          }
        : {}),
      observe: (observer) => this.#observe(observer, arrivalOf),
      async *test() {
        yield { id: 'cells', title: 'Cells', state: 'passed', ms: 0, seen: 'There are cells.' };
      },
      identify: async () => ok({ maker: 'Quern Hollow' }),
      browse: async (_path: string, _context: CallContext) =>
        this.values.size === 0
          ? fail('empty', 'There are no cells.')
          : ok(
              [...this.values.keys()].map((canonical) => ({
                path: canonical.slice(5),
                canonical,
                type: 'REAL',
                hasChildren: false,
                told: { unit: '°C' },
              })),
            ),
    };
  }

  #observe(observer: Observer, arrivalOf: (point: PointSpec) => Arrival): Observation {
    const points = new Map<string, PointSpec>();
    const told = (canonical: string): void => {
      for (const point of points.values()) if (canonical.startsWith(point.canonical)) observer.sink(point.key, arrivalOf(point));
    };
    this.#observers.add(told);
    queueMicrotask(() => observer.alive(60_000));
    return {
      add: (added) => {
        for (const point of added) {
          points.set(point.key, point);
          observer.sink(point.key, arrivalOf(point));
        }
      },
      remove: (keys) => keys.forEach((key) => points.delete(key)),
      close: () => void this.#observers.delete(told),
    };
  }
}
