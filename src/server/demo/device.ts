/** One more device of the demo: its link, its list and a panel page for it; in a project that has it, where it is reached now. */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';
import { demoLink, type DemoPlace } from './link.ts';
import { pageChanges, type DemoElement } from './pages.ts';

export interface DemoDevice {
  readonly name: string;
  /** Said in the history: `demo: weigher`. */
  readonly words: string;
  /** What `demo/links.json` calls its link. */
  readonly link: string;
  readonly fileName: string;
  readonly panel: string;
  readonly page: string;
  readonly elements: readonly DemoElement[];
}

/** @param folder of the demo's files */
export async function setUpDemoDevice(
  { model, projects, lists }: Services,
  folder: string,
  device: DemoDevice,
  place: DemoPlace,
): Promise<Result<null>> {
  const { words, fileName } = device;
  const { link, device: settings, dialect, witnessUrl, moved } = await demoLink(folder, device.link, place);
  const execute = async (label: string, changes: readonly Change[]): Promise<Result<null>> => {
    const done = await projects.execute({ id: uuid(), label, changes }, SET_UP);
    return done.ok ? ok(null) : done;
  };
  const known = model.all('device').find((d) => d.name === device.name);
  if (known) {
    const before = model.get('link', known.linkId);
    const after = before ? moved(before.settings) : null;
    if (!after && known.witnessUrl === witnessUrl) return ok(null);
    return execute(`${words}, where it is`, [
      ...(after ? [{ kind: 'link' as const, id: known.linkId, set: { settings: after } }] : []),
      { kind: 'device', id: known.id, set: { witnessUrl } },
    ]);
  }
  const [linkId, deviceId, panelId, pageId] = [uuid(), uuid(), uuid(), uuid()];
  const begun = await execute(words, [
    { kind: 'link', id: linkId, set: link },
    { kind: 'device', id: deviceId, set: { linkId, name: device.name, settings: settings(), dialect, witnessUrl } },
    { kind: 'panel', id: panelId, set: { name: device.panel, units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: device.page, position: 0 } },
  ]);
  if (!begun.ok) return begun;
  const text = await readFile(join(folder, fileName), 'utf8');
  const brought = await lists.commit({ commandId: uuid(), sourceId: uuid(), deviceId, fileName, text }, SET_UP);
  if (!brought.ok) return brought;
  const byName = new Map(model.tagsOf(deviceId).map((tag) => [tag.name, tag.id]));
  return execute(
    `${words}, its page`,
    pageChanges(pageId, device.elements, (tag) => byName.get(tag) ?? null),
  );
}
