/** Mapping: what one number, a calculation, a look through the project and a search of the map cost. */
import { v7 as uuid } from 'uuid';
import { compile, Evaluation } from '@/core/expression/evaluate.ts';
import { parseExpression } from '@/core/expression/parse.ts';
import type { Tag } from '@/core/project/entities.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { AS_IS, toEngineering, type Scale } from '@/core/scaling/scale.ts';
import { followToValue, type SignalDefinition } from '@/core/signal.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { effectiveSignal } from '@/mapping/effective.ts';
import { Preflight } from '@/mapping/preflight/preflight.ts';
import { Calculations } from '@/runtime/calculations.ts';
import { followedValue } from '@/runtime/calculatedValue.ts';
import { systemClock } from '@/runtime/clock.ts';
import { LiveTable } from '@/runtime/liveTable.ts';
import { ProjectView } from '@/ui/live/project.ts';
import { matching } from '@/ui/live/tagSearch.ts';
import { fitsFilter, NO_FILTER, sorted } from '@/ui/map/mapView.ts';
import { newTag } from '@/core/taglist/newTags.ts';
import { UNGROUPED } from '@/core/project/inherited.ts';
import { atOnce } from '@/core/inSlices.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { mappingArea } from '@/mapping/areaMap.ts';
import type { Figure } from './figure.ts';
import { mapGrid } from './mapGrid.ts';

const LARGE = 100_000;
const CALCULATED = 10_000;
const median = (all: number[]): number => all.sort((a, b) => a - b)[all.length >> 1] ?? 0;
const timed = (run: () => void): number => {
  const begun = performance.now();
  run();
  return performance.now() - begun;
};

export async function mapping(): Promise<readonly Figure[]> {
  return [decoding(), ...scaling(), await calculations(), ...largeProject(), ...(await mapGrid())];
}

/** The types that most values have, each with a scale, in turn. */
function decoding(): Figure {
  const linear: Scale = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 150 };
  const defs = (
    [
      ['INT', linear],
      ['UINT', { kind: 'power', exponent: -1 }],
      ['REAL', AS_IS],
      ['DINT', AS_IS],
      ['UDINT', linear],
      ['REAL', linear],
    ] as const
  ).map(([name, scale]): SignalDefinition => {
    const type = parseDataType(name);
    if (!type.ok) throw new Error(name);
    return { type: type.value, order: ORDERS[orderWidth(type.value)][1] ?? 'AB', bit: null, scale, unit: '', decimals: 1, range: null };
  });
  const wires = defs.map(({ type }) => ({ kind: 'bytes', bytes: Uint8Array.from({ length: type.bytes }, (_, i) => 17 * (i + 1)) }) as const);
  const round = (): number => {
    const n = 60_000;
    let sum = 0;
    const ms = timed(() => {
      for (let i = 0; i < n; i++) {
        const at = i % defs.length;
        const def = defs[at];
        const wire = wires[at];
        if (def && wire) sum += followToValue(def, wire).raw === null ? 1 : 0;
      }
    });
    if (sum > 0) throw new Error('a value did not decode');
    return (ms * 1e6) / n;
  };
  for (let i = 0; i < 5; i++) round();
  const ns = median(Array.from({ length: 21 }, round));
  return { name: 'Decode and scale of one number, of 300 ns', ratio: 300 / ns, wanted: 1, detail: `${ns.toFixed(0)} ns at the median` };
}

/** What a chain costs: a line alone, and a card with a thermocouple behind it. */
function scaling(): readonly Figure[] {
  const linear = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 80 } as const;
  const sensor: Scale = { kind: 'chain', steps: [linear, { kind: 'thermocouple', type: 'K', reference: 25 }] };
  const cost = (scale: Scale): number => {
    const n = 100_000;
    let sum = 0;
    const round = (): number =>
      timed(() => {
        for (let i = 0; i < n; i++) sum += Number(toEngineering(scale, i % 17_000).value);
      });
    for (let i = 0; i < 3; i++) round();
    const ns = (median(Array.from({ length: 9 }, round)) * 1e6) / n;
    if (!Number.isFinite(sum)) throw new Error('a value did not scale');
    return ns;
  };
  const [line, curve] = [cost(linear), cost(sensor)];
  return [
    { name: 'Scaling by a line, of 300 ns', ratio: 300 / line, wanted: 1, detail: `${line.toFixed(0)} ns` },
    { name: 'Scaling by a thermocouple behind a card, of 2 µs', ratio: 2000 / curve, wanted: 1, detail: `${curve.toFixed(0)} ns` },
  ];
}

/** Ten thousand calculated tags over ten thousand inputs that each change once a second: the share of a core. */
async function calculations(): Promise<Figure> {
  const live = new LiveTable();
  const running = new Calculations(live, systemClock, (id) => id);
  const ids = Array.from({ length: CALCULATED }, () => uuid());
  const source = signalOf({ kind: 'local' }, ids[0] ?? '');
  const put = (n: number): void => {
    for (const id of ids) live.arrive(id, source, { kind: 'typed', value: n }, {}, systemClock.now(), 0);
  };
  put(1);
  ids.forEach((id, i) => {
    const expression = `round((@${id} - 32) * 5 / 9 + max(@${ids[(i + 1) % CALCULATED] ?? ''}, 0), 1)`;
    const tagId = uuid();
    const followed = followedValue(live, tagId, signalOf({ kind: 'calculated', expression }, tagId));
    if (followed) running.take(tagId, followed);
  });
  const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
  await turn();
  const rounds: number[] = [];
  const bare: number[] = [];
  for (let n = 0; n < 12; n++) {
    const before = process.cpuUsage();
    put(n + 2);
    await turn();
    const used = process.cpuUsage(before);
    rounds.push((used.user + used.system) / 1000);
  }
  running.close();
  for (let n = 0; n < 12; n++) bare.push(timed(() => put(n)));
  const ms = Math.max(0.1, median(rounds) - median(bare));
  return {
    name: 'Ten thousand calculations a second, of 15 % of a core',
    ratio: 150 / ms,
    wanted: 1,
    detail: `${(ms / 10).toFixed(1)} % of a core; one evaluation alone ${oneEvaluation().toFixed(0)} ns`,
  };
}

function signalOf(source: Tag['source'], id: string) {
  const tag = { ...newTag(ROW, 0, { ids: id.slice(0, 24), deviceId: '', sourceId: '', groups: null } as never), id, source, type: 'LREAL' };
  const used = (other: string) => ({
    tag: { ...tag, id: other, source: { kind: 'local' } as const },
    signal: effectiveSignal({ tag: { ...tag, source: { kind: 'local' } }, scale: null, inherited: UNGROUPED, device: null, link: null }),
  });
  const signal = effectiveSignal({ tag, scale: null, inherited: UNGROUPED, device: null, link: null, used });
  if (!signal.ok) throw new Error(signal.problem.message);
  return signal.value;
}

const ROW = {
  name: 't', group: '', address: 'HR1', type: 'INT', order: '', periodMs: null, access: null, unit: '', decimals: null,
  rangeLow: null, rangeHigh: null, comment: '', initial: '', names: [], listName: 't',
} as never; // prettier-ignore

function oneEvaluation(): number {
  const id = uuid();
  const tree = parseExpression(`round((@${id} - 32) * 5 / 9 + max(@${id}, 0), 1)`, () => null);
  if (!tree.ok) throw new Error(tree.problem.message);
  const evaluation = new Evaluation(compile(tree.value, { kind: 'number' }));
  const inputs = [{ value: 451.5, isDoubted: false }];
  const n = 200_000;
  const round = (): number => timed(() => { for (let i = 0; i < n; i++) evaluation.next(inputs, i); }); // prettier-ignore
  round();
  return (median([round(), round(), round()]) * 1e6) / n;
}

function memoryOf(project: ProjectView): number {
  const [device, link] = [project.devices[0], project.links[0]];
  const driver = describeDriver(link?.driver ?? '');
  const part = driver?.memory;
  const area = part?.areas[0];
  if (!device || !link || !driver || !part || !area) throw new Error('no memory');
  return median(Array.from({ length: 9 }, () => timed(() => void atOnce(mappingArea(project, { device, link, driver, part, area })))));
}

function largeProject(): readonly Figure[] {
  const [linkId, deviceId] = [uuid(), uuid()];
  const tags = Array.from({ length: LARGE }, (_, i): Tag => ({
    ...newTag(ROW, i, { ids: uuid().slice(0, 24), deviceId, sourceId: '', groups: null } as never),
    id: uuid(),
    name: `zone_${i % 100}_value_${i}`,
    source: newPoint(deviceId, i < 65_000 ? `HR${i}` : `IR${i - 65_000}`),
    comment: `value ${i} of zone ${i % 100}`,
  }));
  const snapshot = {
    revision: 1,
    project: { id: uuid(), name: 'P', dialects: [] },
    links: [{ id: linkId, name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } }],
    devices: [{ id: deviceId, linkId, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '', identityTagId: null, identity: '', lifeTagId: null, lifeSeconds: 5, ownLifeTagId: null, reads: 'always' as const, isSimulated: false }],
    groups: [], enumerations: [], structures: [], blocks: [], members: [], simulations: [], copyRules: [], alarms: [], sources: [], sharedScales: [], pictures: [], stateLists: [], subjectLists: [], translations: [], operators: [], tags, scales: [], panels: [], pages: [], elements: [], panelWords: [], proofs: [], drivers: [],
  }; // prettier-ignore
  const project = ProjectView.of(snapshot);
  void project.tags;
  const preflight = new Preflight();
  const wholeMs = timed(() => void preflight.of(project));
  const [first] = tags;
  const changed = first ? project.withChanges(2, [{ kind: 'tag', id: first.id, after: { ...first, unit: 'bar' } }]) : project;
  const after = changed;
  void after.tags;
  const changeMs = timed(() => void preflight.of(after));
  const memoryMs = memoryOf(project);
  matching(project, 'x');
  const search = median(['value 4711', 'zone_7', 'zone 99 31', 'nothing there'].map((text) => timed(() => void matching(project, text))));
  const filter = timed(
    () =>
      void matching(project, 'zone_7', fitsFilter(project, { ...NO_FILTER, state: 'unscaled' }, { notGood: null, overlapping: null, setHere: null })),
  );
  const sorting = timed(() => void sorted(project, project.tags, { key: 'name', isDown: true }));
  return [
    { name: 'Preflight of 100 000 tags, of 1 s', ratio: 1000 / wholeMs, wanted: 1, detail: `${wholeMs.toFixed(0)} ms` },
    { name: 'Preflight after a change of one of 100 000 tags, of 50 ms', ratio: 50 / changeMs, wanted: 1, detail: `${changeMs.toFixed(0)} ms` },
    {
      name: 'Memory map of the holding registers among 100 000 tags, of 200 ms',
      ratio: 200 / memoryMs,
      wanted: 1,
      detail: `${memoryMs.toFixed(0)} ms, in slices`,
    },
    { name: 'Search of 100 000 tags, of 50 ms', ratio: 50 / search, wanted: 1, detail: `${search.toFixed(0)} ms` },
    { name: 'Filter of 100 000 tags, of 150 ms', ratio: 150 / filter, wanted: 1, detail: `${filter.toFixed(0)} ms` },
    { name: 'Sorting 100 000 tags, of 150 ms', ratio: 150 / sorting, wanted: 1, detail: `${sorting.toFixed(0)} ms` },
  ];
}
