/** The tag that is n after another one: its name, or the group or device that it stands in, counts on. */
import { countedOn } from '@/core/panel/multiply.ts';
import { tagPathParts } from '@/core/project/tagPath.ts';
import { tagAt } from '@/core/project/tagPath.ts';
import type { ProjectView } from '../../live/project.ts';

/** Null where no tag of that name is there. */
export function nextTag(project: ProjectView, tagId: string, n: number): string | null {
  const tag = project.tag(tagId);
  if (!tag) return null;
  const parts = tagPathParts(tag, project);
  // From the name up: `input_01` to `input_02`, else `Stand 1.speed` to `Stand 2.speed`.
  for (let at = parts.length - 1; at >= 0; at--) {
    for (const next of counted(parts[at] ?? '', n)) {
      const found = tagAt(
        parts.map((part, i) => (i === at ? next : part)),
        project.named,
      );
      if (found !== null) return found;
    }
  }
  return null;
}

/** Every number in a name counted on, the last one first: of `s1_roll2` first `s1_roll3`, then `s2_roll2`. */
function counted(name: string, n: number): readonly string[] {
  const numbers = [...name.matchAll(/\d+/g)].reverse();
  return numbers.map((match) => `${name.slice(0, match.index)}${countedOn(match[0], n)}${name.slice(match.index + match[0].length)}`);
}
