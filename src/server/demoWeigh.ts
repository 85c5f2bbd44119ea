/**
 * The third link of the demo: WEIGH, a batch weigher with a server of OPC UA. Its list carries two honest mistakes: a tag that
 * reads the weight in place of the last batch, and one whose namespace went with an older program.
 */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import { freePlace, type ElementKind, type ElementSettings } from '@/core/panel/element.ts';
import { PAGE_COLUMNS } from '@/core/project/kinds/element.ts';
import type { Change } from '@/core/project/command.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';

export interface WeighPlace {
  readonly uaPort: number;
  readonly controlPort: number;
  /** Of its certificate: who sets the demo up has seen it. */
  readonly fingerprint: string;
}

const PAGE: readonly (readonly [kind: ElementKind, tag: string, label: string, settings?: ElementSettings])[] = [
  ['number', 'weight', 'Weight'],
  ['bar', 'weight', 'Hopper', { low: 0, high: 200 }],
  ['entry', 'weight_sp', 'Set point'],
  ['number', 'weigher_state', 'State'],
  ['lamp', 'running', 'Weigher', { onText: 'RUNS', offText: 'STOPPED' }],
  ['bar', 'gate_1', 'Inlet gate', { low: 0, high: 100 }],
  ['number', 'batches', 'Batches'],
  ['number', 'recipe', 'Recipe'],
];

export async function setUpWeigh({ model, projects, lists }: Services, folder: string, place: WeighPlace): Promise<Result<null>> {
  const settings = { endpoint: `opc.tcp://127.0.0.1:${place.uaPort}`, policy: 'Basic256Sha256', mode: 'SignAndEncrypt', trusted: place.fingerprint };
  const witnessUrl = `http://127.0.0.1:${place.controlPort}`;
  const execute = async (label: string, changes: readonly Change[]): Promise<Result<null>> => {
    const done = await projects.execute({ id: uuid(), label, changes }, SET_UP);
    return done.ok ? ok(null) : done;
  };
  const known = model.all('device').find((d) => d.name === 'WEIGH');
  if (known)
    return execute('demo: place of the simulated weigher', [
      { kind: 'link', id: known.linkId, set: { settings } },
      { kind: 'device', id: known.id, set: { witnessUrl } },
    ]);
  const [linkId, deviceId, panelId, pageId] = [uuid(), uuid(), uuid(), uuid()];
  const begun = await execute('demo: weigher', [
    { kind: 'link', id: linkId, set: { name: 'Weigher', driver: 'opc-ua', settings } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'WEIGH', settings: {}, dialect: {}, witnessUrl } },
    { kind: 'panel', id: panelId, set: { name: 'Weigher panel' } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Batch weigher', position: 0 } },
  ]);
  if (!begun.ok) return begun;
  const text = await readFile(join(folder, 'weigh-nodes.csv'), 'utf8');
  const brought = await lists.commit({ commandId: uuid(), sourceId: uuid(), deviceId, fileName: 'weigh-nodes.csv', text }, SET_UP);
  if (!brought.ok) return brought;
  const byName = new Map(model.tagsOf(deviceId).map((tag) => [tag.name, tag.id]));
  const placed: { x: number; y: number; w: number; h: number }[] = [];
  return execute(
    'demo: weigher page',
    PAGE.map(([kind, tag, label, elementSettings]): Change => {
      const at = { ...freePlace(placed, PAGE_COLUMNS, 3, 2), w: 3, h: 2 };
      placed.push(at);
      return { kind: 'element', id: uuid(), set: { pageId, kind, tagId: byName.get(tag) ?? null, label, ...at, settings: elementSettings ?? {} } };
    }),
  );
}
