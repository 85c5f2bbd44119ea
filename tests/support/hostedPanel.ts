/** A panel as a bench would send it: local tags alone, or with a link. */
import { createHash } from 'node:crypto';
import { v4 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { listsOf } from '@/core/project/snapshot.ts';
import { writingProjectFile, type FiledProject } from '@/core/projectFile/projectFile.ts';
import type { Answers } from '@/core/hosting/messages.ts';
import type { Result } from '@/core/result.ts';
import { entitiesOf, projectDigest } from '@/mapping/hosting/panelProject.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import type { PairedHere } from './hostHere.ts';

export interface HostedPanel {
  readonly panelId: string;
  readonly pageId: string;
  readonly localId: string;
  readonly zip: Uint8Array;
  readonly sha256: string;
  readonly digest: string;
}

export const HOSTED_IDS = { panelId: uuid(), pageId: uuid(), elementId: uuid(), localId: uuid(), projectId: uuid() };

/** @param said a text on its page, by which one is told from another */
/** @param alter what a bench of another version would have made of it */
export function hostedPanel(
  said: string,
  more: readonly Change[] = [],
  alter: (filed: FiledProject) => FiledProject = (filed) => filed,
): HostedPanel {
  const { panelId, pageId, elementId, localId, projectId } = HOSTED_IDS;
  const model = new ProjectModel();
  const local = { name: 'batch', source: { kind: 'local' }, type: 'UINT', access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: '7' }; // prettier-ignore
  const planned = model.plan([
    { kind: 'project', id: projectId, set: { name: 'Machine' } },
    { kind: 'tag', id: localId, set: local },
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
    { kind: 'element', id: elementId, set: { pageId, kind: 'value', tagId: localId, label: said, x: 0, y: 0, w: 100, h: 60, settings: {} } },
    ...more,
  ]);
  if (!planned.ok) throw new Error(planned.problem.message);
  model.apply(planned.value);
  const [project] = model.all('project');
  if (!project) throw new Error('no project');
  const filed = alter({ project, ...listsOf((kind) => model.all(kind)), proofs: [] });
  const zip = Buffer.concat([...writingProjectFile(filed, '2026-12-01T08:00:00.000Z')]);
  const sha256 = createHash('sha256').update(zip).digest('hex');
  return { panelId, zip, sha256, digest: projectDigest(entitiesOf(filed)), pageId, localId };
}

/** Sends it in two parts. @param replaces what the sender saw */
export async function sendTo(bench: PairedHere, panel: HostedPanel, replaces: string | null): Promise<Result<Answers['take']>> {
  const transfer = uuid();
  const half = Math.floor(panel.zip.length / 2);
  for (const [from, to] of [
    [0, half],
    [half, panel.zip.length],
  ] as const) {
    const part = await bench.call('part', { transfer, from, bytes: Buffer.from(panel.zip.subarray(from, to)).toString('base64') });
    if (!part.ok) return part;
  }
  const { panelId, sha256, digest } = panel;
  return bench.call('take', { transfer, sha256, digest, panelId, replaces, pins: [], secrets: [] });
}
