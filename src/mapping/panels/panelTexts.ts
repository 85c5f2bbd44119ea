/** The texts of a panel with what stands on no page of any panel: what controllers send. */
import type { Translation } from '@/core/project/entities.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { textsOf } from '@/core/panel/sceneWording.ts';
import { otherLanguages, textRows, type TextRow } from '@/core/panel/textTable.ts';
import { sceneOf, type PanelsProject } from './sceneOf.ts';

export interface PanelTexts {
  readonly scene: Scene;
  readonly codes: readonly string[];
  readonly rows: readonly TextRow[];
}

/** Null for a panel that is gone. @param panelIds all of the project */
export function panelTexts(
  project: PanelsProject,
  panelId: string,
  panelIds: readonly string[],
  translations: Iterable<Translation>,
): PanelTexts | null {
  const scene = sceneOf(project, panelId);
  if (!scene) return null;
  const codes = otherLanguages(scene);
  const sources = new Set([...translations].flatMap(({ language, source }) => (codes.includes(language) ? [source] : [])));
  for (const id of sources.size === 0 ? [] : panelIds) for (const { source } of textsOf(sceneOf(project, id) ?? scene)) sources.delete(source);
  return { scene, codes, rows: textRows(scene, codes, sources) };
}
