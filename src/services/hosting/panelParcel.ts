/** A panel as it is sent to a panel host: a project file of what it needs, the PINs of its people, the secrets of its links. */
import { createHash } from 'node:crypto';
import { nextTurn } from '@/core/inSlices.ts';
import type { CallOf } from '@/core/hosting/messages.ts';
import type { AnyEntity, Link } from '@/core/project/entities.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { writingProjectFile, type FiledProject, type PictureData } from '@/core/projectFile/projectFile.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { NO_SETTINGS, secretsIn } from '@/core/manifest/settingsSchema.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { entitiesOf, panelProject, projectDigest } from '@/mapping/hosting/panelProject.ts';
import { panelStart } from '@/mapping/hosting/panelStart.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import type { PictureStore } from '@/store/pictureStore.ts';
import type { PinStore } from '@/store/pinStore.ts';
import type { SecretBox } from '@/store/secretBox.ts';
import type { PanelService } from '../panelService.ts';

export interface ParcelSources {
  readonly snapshot: () => Snapshot;
  readonly panels: Pick<PanelService, 'scene'>;
  readonly pictures: Pick<PictureStore, 'bytesOf'>;
  readonly pins: Pick<PinStore, 'stored'>;
  readonly secrets: Pick<SecretBox, 'reveal'>;
}

export interface PanelParcel {
  readonly project: FiledProject;
  readonly zip: Uint8Array;
  readonly sha256: string;
  readonly digest: string;
  readonly pins: CallOf<'take'>['pins'];
  readonly secrets: CallOf<'take'>['secrets'];
  /** What the person should know of it. */
  readonly notes: readonly string[];
}

export async function panelParcel(
  panelId: string,
  at: string,
  { snapshot, panels, pictures, pins, secrets }: ParcelSources,
): Promise<Result<PanelParcel>> {
  const { revision: _revision, drivers: _drivers, proofs: _proofs, ...lists } = snapshot();
  const scene = panels.scene(panelId);
  const subjects = scene?.pages.flatMap(({ id }) => scene.subjectsOn(id)?.choices ?? []) ?? [];
  const shown = subjects.flatMap(({ tags }) => [...tags.values()].flatMap((id) => id ?? []));
  const reduced = panelProject({ ...lists, proofs: [] }, panelId, shown);
  if (!reduced) return fail('gone', 'There is no such panel (any more).', 'Look at the list again.');
  const { project, ledBack } = reduced;
  const start = panelStart(project.panels[0] ?? null, project.pages);
  if (!start.ok) return start;
  // What the host would refuse is found here, where it can be cured.
  const planned = await new ProjectModel().planInSlices(entitiesOf(project).map(({ kind, entity: { id, ...set } }) => ({ kind, id, set })));
  if (!planned.ok) return planned;
  const own: PictureData[] = [];
  for (const { digest, type } of project.pictures) {
    const bytes = await pictures.bytesOf(digest);
    if (bytes) own.push({ digest, type, bytes });
  }
  const parts: Uint8Array[] = [];
  for (const part of writingProjectFile(project, at, own)) {
    parts.push(part);
    await nextTurn();
  }
  const zip = Buffer.concat(parts);
  const stored = await Promise.all(project.operators.map(async ({ id }) => ({ operatorId: id, pin: await pins.stored(id) })));
  return ok({
    project,
    zip,
    sha256: createHash('sha256').update(zip).digest('hex'),
    digest: projectDigest(entitiesOf(project)),
    pins: stored.flatMap(({ operatorId, pin }) => (pin ? [{ operatorId, salt: pin.salt, hash: pin.hash }] : [])),
    secrets: [...secretIds(project)].map((id) => ({ id, secret: secrets.reveal(id) ?? '' })),
    notes: [
      ...ledBack.map((name) => `${name} is simulated here; on the panel host it is the machine's.`),
      ...(lists.copyRules.length > 0 ? ['Copy rules stay at the bench: on the panel host they do not run.'] : []),
    ],
  });
}

function* secretIds({ links, devices }: FiledProject): Generator<string> {
  const settingsOf = (of: AnyEntity & { readonly settings: Readonly<Record<string, unknown>> }, names: readonly string[]): string[] =>
    names.flatMap((name) => (typeof of.settings[name] === 'string' && of.settings[name] !== '' ? [of.settings[name]] : []));
  const driverOf = new Map(links.map((link: Link) => [link.id, describeDriver(link.driver)]));
  const ids = new Set<string>();
  for (const link of links) for (const id of settingsOf(link, secretsIn(driverOf.get(link.id)?.link ?? NO_SETTINGS))) ids.add(id);
  for (const device of devices) for (const id of settingsOf(device, secretsIn(driverOf.get(device.linkId)?.device ?? NO_SETTINGS))) ids.add(id);
  yield* ids;
}
