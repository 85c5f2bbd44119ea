/** Something doubtful in a project: why, how grave, where, and what would put it right where that is certain. */
import type { Change } from '@/core/project/command.ts';
import type { CopyRule, Device, EntityKind, Link, Panel, Tag } from '@/core/project/entities.ts';
import type { Inherited } from '@/core/project/inherited.ts';
import type { CopyProject } from '../copies/copyPairs.ts';
import type { PanelsProject } from '../panels/sceneOf.ts';

export type Severity = 'error' | 'warning' | 'note';

/** What is looked for; stable words for programs. */
export type DoubtCode =
  | 'unfit'
  | 'read-only-place'
  | 'type-disagrees'
  | 'overlap'
  | 'two-types'
  | 'two-meanings'
  | 'written-twice'
  | 'bit-of-written-word'
  | 'range-beyond-type'
  | 'no-range'
  | 'no-scale'
  | 'scale-unit'
  | 'gone-from-list'
  | 'alike-names'
  | 'calculation'
  | 'copy-rule'
  | 'unused'
  | 'same-party'
  | 'no-tags'
  | 'no-devices'
  | 'no-tag-shown'
  | 'element-writes'
  | 'no-picture'
  | 'picture-gone'
  | 'element-read-only'
  | 'element-unit'
  | 'element-outside'
  | 'element-tag-gone'
  | 'element-expression'
  | 'element-cut'
  | 'element-small'
  | 'element-overlap'
  | 'element-contrast'
  | 'state-gaps'
  | 'two-writers'
  | 'page-gone'
  | 'page-unreached'
  | 'page-no-way'
  | 'nobody-may'
  | 'alarm'
  | 'alarm-unseen'
  | 'no-subject'
  | 'subject-gone'
  | 'subject-missing'
  | 'page-number'
  | 'panel-word'
  | 'panel-unanswered'
  | 'empty-page';

export interface Doubt {
  readonly code: DoubtCode;
  readonly severity: Severity;
  readonly message: string;
  readonly about: { readonly kind: 'tag' | 'device' | 'link' | 'page' | 'copyRule' | 'alarm'; readonly id: string };
  /** The other tag, where it is about two. */
  readonly otherId?: string;
  readonly remedy?: { readonly button: string; readonly label: string; readonly changes: readonly Change[] };
}

/** The project that is looked through. */
export interface PreflightProject extends PanelsProject {
  readonly revision: number;
  /** What changed since an earlier revision; null when that is not known any more. */
  changesSince(revision: number): readonly { readonly kind: EntityKind; readonly id: string }[] | null;
  readonly devices: readonly Device[];
  readonly links: readonly Link[];
  readonly panels: readonly Panel[];
  readonly copyRules: readonly CopyRule[];
  readonly copies: CopyProject;
  allTags(): Iterable<Tag>;
  inheritedBy(groupId: string | null): Inherited;
  device(id: string): Device | null;
  pathOf(tag: Tag): string;
  scale(tagId: string): { readonly scale: { readonly kind: string } } | null;
}
