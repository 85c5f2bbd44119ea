/** The panel over the whole line of the demo: an overview, and the eight stands beside each other. */
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';
import { alarmChanges } from './alarms.ts';
import { bar, entry, frame, lamp, pageChanges, pipe, states, symbol, text, value, way, type DemoElement } from './pages.ts';

const STANDS = [1, 2, 3, 4, 5, 6, 7, 8] as const;

/** On a phone in the order of the line: each machine after its name. */
function overview(stands: string, stand: string): readonly DemoElement[] {
  const elements: readonly DemoElement[] = [
    frame([16, 24, 1248, 392], 'Quern Hollow, line 2'),
    bar([32, 56, 136, 264], 'bin_level', 'Bin', { shape: 'silo', frame: 'none', ends: false }),
    // Through the kiln, over the stands, into weigher and bagging.
    pipe(
      [100, 312, 140, 56],
      [
        [0, 0],
        [0, 1000],
        [1000, 1000],
      ],
      'belt_running',
    ),
    { kind: 'shape', at: [224, 152, 264, 168], settings: { shape: 'round', fill: 'surface', line: 'line', width: 2 }, phone: { width: 'hidden' } },
    text([240, 120, 232, 28], 'Kiln', { size: 'large', align: 'centre' }),
    symbol([240, 168, 80, 88], 'burner', undefined, ''),
    value([324, 168, 152, 64], 'bed_temp', 'Bed', { frame: 'none' }),
    value([324, 240, 152, 64], 'moisture_out', 'Moisture', { frame: 'none' }),
    symbol([244, 256, 72, 60], 'conveyor', 'belt_running', '', 'RUNS', 'STOPPED', { word: false }),
    pipe(
      [240, 356, 992, 24],
      [
        [0, 500],
        [1000, 500],
      ],
      'belt_running',
    ),
    text([520, 44, 344, 28], 'Flaking stands', { size: 'large', align: 'centre' }),
    ...STANDS.map((n): DemoElement => {
      const [row, column] = [Math.floor((n - 1) / 4), (n - 1) % 4];
      return symbol([520 + column * 88, 80 + row * 136, 80, 72], 'rollers', `s${n}_running`, '', 'RUNS', 'STANDS', { word: false });
    }),
    ...STANDS.map((n): DemoElement => {
      const [row, column] = [Math.floor((n - 1) / 4), (n - 1) % 4];
      const settings = { actions: [newAction('subject', { pageId: stand, value: String(n) })], size: 'small' };
      return { kind: 'button', at: [522 + column * 88, 152 + row * 136, 76, 56], label: `Stand ${n}`, settings };
    }),
    text([896, 120, 168, 28], 'Weigher', { size: 'large', align: 'centre' }),
    bar([896, 152, 168, 184], 'weight', 'Hopper', { low: 0, high: 200, shape: 'silo', frame: 'none', ends: false, target: { by: 'weight_sp' } }),
    text([1088, 120, 160, 28], 'Bagging', { size: 'large', align: 'centre' }),
    symbol([1096, 156, 64, 84], 'bagger', 'bagger_1_running', '1', 'RUNS', 'STOPPED'),
    symbol([1176, 156, 64, 84], 'bagger', 'bagger_2_running', '2', 'RUNS', 'STOPPED'),
    symbol([1096, 252, 64, 84], 'bagger', 'bagger_3_running', '3', 'RUNS', 'STOPPED'),
    symbol([1176, 252, 64, 84], 'bagger', 'bagger_4_running', '4', 'RUNS', 'STOPPED'),
    way([1088, 44, 160, 60], 'To the stands', stands),
    {
      kind: 'table',
      at: [16, 440, 632, 304],
      label: 'Stands',
      settings: {
        cells: STANDS.flatMap((n) => ['gap', 'current', 'temp_front', 'vibration'].map((tag) => `s${n}_${tag}`)),
        columns: 4,
        columnNames: 'Gap | Current | Front roll | Vibration',
        rowNames: STANDS.map((n) => `Stand ${n}`).join(' | '),
      },
    },
    {
      kind: 'trend',
      at: [664, 440, 600, 160],
      tag: 'bed_temp',
      label: 'Bed, last 10 minutes',
      settings: { moreTags: ['bed_temp_mid', 'bed_temp_sp'], minutes: 10 },
    },
    { kind: 'alarmBar', at: [664, 608, 600, 48] },
    lamp([664, 664, 192, 72], 'stop_ok', 'Emergency stop', 'CLOSED', 'OPEN', { on: 'on', off: 'bad' }),
    value([872, 664, 192, 72], 'oat_total', 'Oats since January'),
    value([1080, 664, 184, 72], 'pallet_bags', 'On the pallet'),
  ];
  return elements.map((element, place) => ({ ...element, phone: { ...element.phone, place } }));
}

function stand(n: number): readonly DemoElement[] {
  const [x, y] = [16 + ((n - 1) % 4) * 314, 24 + Math.floor((n - 1) / 4) * 372];
  const of = (tag: string): string => `s${n}_${tag}`;
  return [
    frame([x, y, 306, 356], `Stand ${n}`),
    symbol([x + 12, y + 14, 96, 104], 'rollers', of('running'), '', 'RUNS', 'STANDS'),
    lamp([x + 120, y + 14, 174, 50], of('engaged'), 'Rolls', 'TOGETHER', 'APART', { off: 'plain' }),
    { kind: 'switch', at: [x + 120, y + 68, 174, 60], tag: of('run_cmd'), label: 'Turn', settings: { states: states('ON', 'OFF') } },
    bar([x + 12, y + 134, 282, 84], of('gap'), 'Gap', { low: 0, high: 2, target: { by: of('gap_sp') } }),
    entry([x + 12, y + 226, 136, 60], of('gap_sp'), 'Gap, set point'),
    entry([x + 158, y + 226, 136, 60], of('feed_sp'), 'Feed, set point'),
    value([x + 12, y + 292, 136, 56], of('current'), 'Current'),
    value([x + 158, y + 292, 136, 56], of('vibration'), 'Vibration'),
  ];
}

/** One page for any of the stands: drawn with the tags of the first, it shows those of the one that is chosen. */
function anyStand(overviewId: string): readonly DemoElement[] {
  return [
    { kind: 'subject', at: [16, 24, 1040, 60], label: 'Stand' },
    way([1088, 24, 176, 60], 'To the overview', overviewId),
    frame([16, 112, 400, 632], 'Stand {subject}'),
    symbol([48, 136, 160, 168], 'rollers', 's1_running', '', 'RUNS', 'STANDS'),
    lamp([224, 144, 176, 64], 's1_engaged', 'Rolls', 'TOGETHER', 'APART', { off: 'plain' }),
    { kind: 'switch', at: [224, 224, 176, 72], tag: 's1_run_cmd', label: 'Turn', settings: { states: states('ON', 'OFF') } },
    value([32, 320, 176, 64], 's1_speed', 'Speed'),
    value([224, 320, 176, 64], 's1_current', 'Current'),
    value([32, 400, 176, 64], 's1_pressure', 'Hydraulics'),
    value([224, 400, 176, 64], 's1_vibration', 'Vibration'),
    value([32, 480, 176, 64], 's1_run_time', 'Time run'),
    value([224, 480, 176, 64], 's1_flakes', 'Flakes'),
    bar([448, 120, 400, 104], 's1_gap', 'Gap', { low: 0, high: 2, target: { by: 's1_gap_sp' } }),
    entry([864, 120, 192, 104], 's1_gap_sp', 'Gap, set point'),
    bar([448, 240, 400, 104], 's1_feed', 'Feed gate', { low: 0, high: 100, target: { by: 's1_feed_sp' } }),
    entry([864, 240, 192, 104], 's1_feed_sp', 'Feed, set point'),
    {
      kind: 'trend',
      at: [448, 376, 816, 368],
      tag: 's1_temp_front',
      label: 'Rolls of stand {subject}, last 10 minutes',
      settings: { moreTags: ['s1_temp_rear'], minutes: 10 },
    },
  ];
}

const ALARMS_PAGE: readonly DemoElement[] = [
  { kind: 'alarms', at: [16, 24, 1248, 400], label: 'Alarms' },
  {
    kind: 'sets',
    at: [16, 440, 616, 304],
    label: 'Recipe of the kiln',
    settings: { name: 'Kiln', members: ['bed_temp_sp', 'moisture_sp', 'steam_press_sp', 'dwell_preset'] },
  },
  {
    kind: 'sets',
    at: [648, 440, 616, 304],
    label: 'Gaps of the stands',
    settings: { name: 'Gaps', members: STANDS.map((n) => `s${n}_gap_sp`) },
  },
];

/** Made once, after the devices that it shows. */
export async function setUpLine({ model, projects }: Services): Promise<Result<null>> {
  const ids = new Map(model.all('tag').map((tag) => [tag.name, tag.id]));
  const idOf = (tag: string): string | null => ids.get(tag) ?? null;
  const [panelId, overviewId, standsId, standId, listId, alarmsId] = [uuid(), uuid(), uuid(), uuid(), uuid(), uuid()];
  const stands = model
    .all('device')
    .filter(({ name }) => /^ROLLS \d$/.test(name))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));
  const shown = (elements: readonly DemoElement[]): readonly DemoElement[] => elements.filter(({ tag }) => tag === undefined || ids.has(tag));
  const done = await projects.execute(
    {
      id: uuid(),
      label: 'demo: panel over the line',
      changes: [
        { kind: 'panel', id: panelId, set: { name: 'Line panel', units: [] } },
        { kind: 'page', id: overviewId, set: { panelId, name: 'Overview', position: 0 } },
        { kind: 'page', id: standsId, set: { panelId, name: 'Stands', position: 1 } },
        {
          kind: 'subjectList',
          id: listId,
          set: {
            name: 'Flaking stands',
            subjects: stands.map(({ id }, i) => {
              const counted = i === 0 ? { find: '', put: '' } : { find: 's1_', put: `s${i + 1}_` };
              return { of: 'device', id, number: i + 1, text: String(i + 1), ...counted, renames: [] };
            }),
          },
        },
        { kind: 'page', id: standId, set: { panelId, name: 'Stand {subject}', position: 2, subjectListId: stands.length > 0 ? listId : null } },
        { kind: 'page', id: alarmsId, set: { panelId, name: 'Alarms', position: 3 } },
        ...alarmChanges(idOf),
        ...pageChanges(alarmsId, ALARMS_PAGE, idOf),
        ...pageChanges(standId, shown(anyStand(overviewId)), idOf),
        ...pageChanges(overviewId, shown(overview(standsId, standId)), idOf),
        ...pageChanges(standsId, shown(STANDS.flatMap(stand)), idOf),
        { kind: 'panel', id: panelId, set: { startPageId: overviewId } },
      ],
    },
    SET_UP,
  );
  return done.ok ? ok(null) : done;
}
