/** An expression as it is typed: with the paths of tags of the project, checked at every keystroke. */
import { checkExpression, type Checked } from '@/core/expression/check.ts';
import { compile, type Program } from '@/core/expression/evaluate.ts';
import { parseExpression } from '@/core/expression/parse.ts';
import { withIds, withPaths } from '@/core/expression/references.ts';
import { pathInExpression, type ExpressionProblem } from '@/core/expression/tokens.ts';
import type { Tag } from '@/core/project/entities.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { tagAt, tagPathParts } from '@/core/project/tagPath.ts';
import { expressionIn } from '@/core/project/tagSource.ts';
import type { ProjectView } from '../live/project.ts';
import { matching } from '../live/tagSearch.ts';

export type Reading =
  { readonly ok: true; readonly program: Program; readonly checked: Checked } | { readonly ok: false; readonly problem: ExpressionProblem };

export function readingOf(project: ProjectView, text: string): Reading {
  const tree = parseExpression(text, (parts) => tagMeant(project, parts));
  if (!tree.ok) return { ok: false, problem: withNearest(project, text, tree.problem as ExpressionProblem) };
  const checked = checkExpression(tree.value, (id) => {
    const tag = project.tag(id);
    if (!tag) return null;
    const signal = project.effective(id);
    const kind = !signal.ok
      ? null
      : signal.value.def.type.kind === 'boolean' || signal.value.def.type.kind === 'text'
        ? signal.value.def.type.kind
        : 'number';
    return { kind, unit: tag.unit, name: tag.name };
  });
  if (!checked.ok) return { ok: false, problem: checked.problem as ExpressionProblem };
  return { ok: true, program: compile(tree.value, checked.value), checked: checked.value };
}

/** The tag that a path names; names on the way may be left out as long as only one tag is left. */
function tagMeant(project: ProjectView, parts: readonly string[]): string | null {
  const exact = tagAt(parts, project.named);
  if (exact !== null) return exact;
  const keys = parts.map(nameKey);
  const meant = project.tagsNamed(parts.at(-1) ?? '').filter((tag) => holdsInOrder(tagPathParts(tag, project).map(nameKey), keys));
  return meant.length === 1 ? (meant[0]?.id ?? null) : null;
}

function holdsInOrder(path: readonly string[], keys: readonly string[]): boolean {
  let at = 0;
  for (const part of path) if (part === keys[at]) at++;
  return at === keys.length;
}

/** Where a name is none, or of several tags, those that could be meant. */
function withNearest(project: ProjectView, text: string, problem: ExpressionProblem): ExpressionProblem {
  const shown = text.slice(problem.from, problem.to);
  const name = shown.split('.').at(-1)?.replaceAll('"', '') ?? '';
  if (!/no tag/.test(problem.message) || name === '') return problem;
  const same = project.tagsNamed(name);
  const near = same.length > 0 ? same : matching(project, name, undefined, 3);
  if (near.length === 0) return problem;
  return {
    ...problem,
    remedy: `Perhaps ${near
      .slice(0, 3)
      .map((tag) => expressionPath(project, tag))
      .join(' or ')} is meant.`,
  };
}

/** As it is sent and kept: with ids. Null where it cannot be read. */
export function storedExpression(project: ProjectView, text: string): string | null {
  const stored = withIds(text.trim(), (parts) => tagMeant(project, parts));
  return stored.ok ? stored.value : null;
}

/** The path of a tag as expressions write it. */
export function expressionPath(project: ProjectView, tag: Tag): string {
  return pathInExpression(tagPathParts(tag, project));
}

/** The expression that a tag goes by, of its value or its index, with the names of now; empty where it has none. */
export function expressionText(project: ProjectView, tag: Tag): string {
  return withPaths(expressionIn(tag) ?? '', (id) => {
    const used = project.tag(id);
    return used && expressionPath(project, used);
  });
}
