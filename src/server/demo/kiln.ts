/**
 * The demo: Quern Hollow, line 2, set up but for one list left to import. It carries a few honest mapping
 * mistakes for the checks to find. Made once; later starts only follow the stand-in's ports.
 */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { Tag } from '@/core/project/entities.ts';
import { withPoint, type PointSource } from '@/core/project/tagSource.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Limits } from '@/core/ranges/limits.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';
import { KILN_PAGE } from './kilnPage.ts';
import { demoLink, type DemoPlace } from './link.ts';
import { pageChanges } from './pages.ts';

/** Three inputs of one card: they share it. */
const card: Scale = { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 };
const CARD_NAME = 'Bed, 0–150 °C over 27648 counts';
/** A card of 0 to 20 mA, a loop of 4 to 20 mA that tells its faults, a level of 0 to 100 %. */
const loop: Scale = {
  kind: 'chain',
  steps: [
    { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 20 },
    { kind: 'current' },
    { kind: 'linear', rawA: 4, engA: 0, rawB: 20, engB: 100 },
  ],
};
const tenths: Scale = { kind: 'power', exponent: -1 };
const hundredths: Scale = { kind: 'power', exponent: -2 };
const nanoseconds: Scale = { kind: 'power', exponent: -9 };

const bedLimits: Limits = { lowLow: null, low: 60, high: 125, highHigh: 135, hysteresis: 2, delayMs: 3000 };
const binLimits: Limits = { lowLow: 10, low: 20, high: 90, highHigh: 95, hysteresis: 2, delayMs: 0 };

interface Setting {
  readonly scale?: Scale;
  readonly set?: Partial<Tag>;
  readonly point?: Partial<PointSource>;
}

/** What the engineer of the demo found out about the tags; bed_temp_out and steam_press are honestly wrong. */
const SETTINGS: Readonly<Record<string, Setting>> = {
  bed_temp_in: { scale: card, set: { decimals: 1, rangeLow: 0, rangeHigh: 150 } },
  bed_temp_mid: { scale: card, set: { decimals: 1, rangeLow: 0, rangeHigh: 150 } },
  bed_temp_sp: { scale: card, set: { decimals: 1, rangeLow: 40, rangeHigh: 130 } },
  bed_temp: { set: { decimals: 1, displayRange: { low: 0, high: 150 }, limits: bedLimits }, point: { order: 'CDAB', periodMs: 500 } },
  bed_temp_out: { set: { decimals: 1 }, point: { periodMs: 500 } },
  exhaust_temp: { set: { decimals: 1 }, point: { order: 'BADC' } },
  steam_press: { scale: tenths, set: { decimals: 2, rangeLow: 0, rangeHigh: 6 } },
  steam_press_sp: { scale: hundredths, set: { decimals: 2, rangeLow: 0, rangeHigh: 4 } },
  steam_flow: { set: { decimals: 1 } },
  gas_flow: { set: { decimals: 2 }, point: { order: 'DCBA' } },
  heat_power: { set: { decimals: 1 } },
  moisture_in: { scale: tenths, set: { decimals: 1 } },
  moisture_out: { scale: tenths, set: { decimals: 1 } },
  moisture_sp: { scale: tenths, set: { decimals: 1, rangeLow: 6, rangeHigh: 16 } },
  rejects: { point: { order: 'CDAB', periodMs: 5000 } },
  dwell_preset: { scale: nanoseconds, set: { decimals: 3, rangeLow: 0, rangeHigh: 60 }, point: { periodMs: 5000 } },
  run_time: { scale: nanoseconds, set: { decimals: 3 }, point: { order: 'GHEFCDAB' } },
  energy: { point: { order: 'BADCFEHG', periodMs: 5000 } },
  flow_total: { set: { decimals: 3 }, point: { order: 'HGFEDCBA', periodMs: 5000 } },
  operator_name: { point: { order: 'BA', periodMs: 5000 } },
  recipe_name: { point: { periodMs: 5000 } },
  batch_no: { point: { order: 'CDAB' } },
  belt_jog: { point: { periodMs: 200 } },
  free_count: { point: { periodMs: 200 } },
  belt_running: { point: { periodMs: 200 } },
  beat: { point: { periodMs: 200 } },
  ambient_temp: { scale: tenths, set: { decimals: 1 } },
  humidity: { scale: tenths, set: { decimals: 1 } },
  bin_level: { scale: loop, set: { decimals: 1, rangeLow: 0, rangeHigh: 100, limits: binLimits } },
  filter_press: { set: { decimals: 2 }, point: { order: 'CDAB' } },
};

/** @param folder of the demo's files */
export async function setUpDemo(services: Services, folder: string, place: DemoPlace): Promise<Result<null>> {
  const { model, projects, lists } = services;
  const { link: made, device: settings, dialect, witnessUrl, moved } = await demoLink(folder, 'kiln', place);
  const execute = async (label: string, changes: readonly Change[]): Promise<Result<null>> => {
    const done = await projects.execute({ id: uuid(), label, changes }, SET_UP);
    return done.ok ? ok(null) : done;
  };
  const known = model.all('device').find((d) => d.name === 'KILN');
  if (known) {
    const link = model.get('link', known.linkId);
    const after = link ? moved(link.settings) : null;
    if (!after && known.witnessUrl === witnessUrl) return ok(null);
    return execute('demo: ports of the simulated kiln', [
      ...(after ? [{ kind: 'link' as const, id: known.linkId, set: { settings: after } }] : []),
      { kind: 'device', id: known.id, set: { witnessUrl } },
    ]);
  }
  const [linkId, deviceId, panelId, pageId] = [uuid(), uuid(), uuid(), uuid()];
  const begun = await execute('demo begun', [
    { kind: 'project', id: model.all('project')[0]?.id ?? '', set: { name: 'Quern Hollow, line 2' } },
    { kind: 'link', id: linkId, set: made },
    { kind: 'device', id: deviceId, set: { linkId, name: 'KILN', settings: settings(), dialect, witnessUrl } },
    { kind: 'panel', id: panelId, set: { name: 'Kiln panel', units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Kiln overview', position: 0 } },
  ]);
  if (!begun.ok) return begun;
  const text = await readFile(join(folder, 'kiln-process.csv'), 'utf8');
  const brought = await lists.commit({ commandId: uuid(), sourceId: uuid(), deviceId, fileName: 'kiln-process.csv', text }, SET_UP);
  if (!brought.ok) return brought;
  const byName = new Map(model.tagsOf(deviceId).map((tag) => [tag.name, tag]));
  const idOf = (name: string): string => byName.get(name)?.id ?? '';
  const sharedId = uuid();
  const shared: Change = { kind: 'sharedScale', id: sharedId, set: { name: CARD_NAME, scale: card, unit: '°C', decimals: 1 } };
  const mapped = await execute(
    'demo: orders and scales',
    Object.entries(SETTINGS)
      .flatMap(([name, { scale, set, point = {} }]): Change[] => [
        ...[byName.get(name)].flatMap((tag) => (tag ? [{ kind: 'tag' as const, id: tag.id, set: { ...set, ...withPoint(tag, point) } }] : [])),
        ...(scale ? [{ kind: 'scale' as const, id: idOf(name), set: { scale, sharedId: scale === card ? sharedId : null } }] : []),
      ])
      .concat(shared, {
        kind: 'device',
        id: deviceId,
        set: {
          identityTagId: idOf('serial_no'),
          identity: '407133',
          lifeTagId: idOf('free_count'),
          lifeSeconds: 5,
          ownLifeTagId: idOf('panel_life'),
        },
      }),
  );
  if (!mapped.ok) return mapped;
  return execute(
    'demo: panel page',
    pageChanges(pageId, KILN_PAGE, (tag) => byName.get(tag)?.id ?? null),
  );
}
