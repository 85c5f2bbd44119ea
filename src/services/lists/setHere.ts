/** Tags that are something else than the list says that brought them: what was changed here since the import. */
import type { ProjectModel } from '@/model/projectModel.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fieldsOf } from '@/core/taglist/newTags.ts';
import { nextTurn } from '@/core/inSlices.ts';
import { unpackRows } from '@/store/packs.ts';
import { asListed, tagsOfSource } from './applyOutcomes.ts';

/** Rows that are compared in one turn. */
const AT_ONCE = 500;

/** @param packedOf the rows of a version, packed; null where it is not there */
export async function setHere(model: ProjectModel, packedOf: (versionId: string) => Promise<string | null>): Promise<readonly string[]> {
  const found: string[] = [];
  for (const source of model.all('source')) {
    const packed = source.versionId === null ? null : await packedOf(source.versionId);
    if (packed === null) continue;
    const tags = tagsOfSource(model, source);
    for (const [at, row] of (await unpackRows(packed)).entries()) {
      if (at % AT_ONCE === 0) await nextTurn();
      const tag = tags.get(nameKey(row.listName));
      if (!tag) continue;
      const scale = model.get('scale', tag.id)?.scale ?? null;
      // A scale that the list does not speak of is one of ours, and no change of what it says.
      const isScaled = row.scale !== null && !sameJson(scale, row.scale);
      if (isScaled || !sameJson(asListed(tag, model), fieldsOf(row))) found.push(tag.id);
    }
  }
  return found;
}
