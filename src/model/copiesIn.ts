/** What copy rules are looked at in, as the project would stand after what is planned. */
import type { CopyRule, Tag } from '@/core/project/entities.ts';
import { fail, type Result } from '@/core/result.ts';
import type { CopyProject } from '@/mapping/copies/copyPairs.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ExpressionUses } from '@/mapping/expressionUses.ts';
import type { Look } from './fits.ts';

export interface CopiesWith {
  readonly rules: readonly CopyRule[];
  /** Ids of the members of a block. */
  readonly membersOf: (blockId: string) => Iterable<string>;
  readonly uses: ExpressionUses;
  readonly effective: (tag: Tag) => Result<EffectiveSignal>;
}

export function copiesIn(look: Look, { rules, membersOf, uses, effective }: CopiesWith): CopyProject {
  return {
    copyRules: rules.flatMap(({ id }) => look('copyRule', id) ?? []),
    tag: (id) => look('tag', id),
    link: (id) => look('link', id),
    device: (id) => look('device', id),
    effective: (tagId) => {
      const tag = look('tag', tagId);
      return tag ? effective(tag) : fail('gone', 'The tag is no longer there.');
    },
    membersOf: (blockId) => [...membersOf(blockId)].flatMap((id) => look('member', id) ?? []),
    usersOf: (tagIds) => uses.of(tagIds),
    usedInExpressions: () => uses.used,
  };
}
