/** What is checked in one go: everything, a device, a panel, a page, or what asks for somebody. */
import { ELEMENTS } from '@/core/panel/kinds.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { ProjectView } from '../live/project.ts';

/** `all`, `asking`, or the kind and id of a device, panel or page: `page 018f…`. */
export type ScopeKey = string;

export interface Scope {
  readonly key: ScopeKey;
  readonly name: string;
}

/** Everything that can be checked in one go, the whole first. */
export function scopesOf(project: ProjectView): readonly { readonly heading: string; readonly scopes: readonly Scope[] }[] {
  return [
    {
      heading: 'Tags',
      scopes: [
        { key: 'all', name: 'All tags' },
        { key: 'asking', name: 'Failed, changed or unproven' },
      ],
    },
    { heading: 'Devices', scopes: project.devices.map(({ id, name }) => ({ key: `device ${id}`, name })) },
    {
      heading: 'Panels',
      scopes: project.panels.flatMap((panel) => [
        { key: `panel ${panel.id}`, name: panel.name },
        ...project.pagesOf(panel.id).map((page) => ({ key: `page ${page.id}`, name: `${panel.name}, ${page.name}` })),
      ]),
    },
  ];
}

export function scopeName(project: ProjectView, key: ScopeKey): string {
  return (
    scopesOf(project)
      .flatMap(({ scopes }) => scopes)
      .find((scope) => scope.key === key)?.name ?? 'All tags'
  );
}

const ASKING = ['failed', 'changed', 'elsewhere', 'unproven', 'consistent'];

/** The tags of a scope, in the order in which somebody walks along them: of pages as they stand there. */
export function tagsOf(project: ProjectView, key: ScopeKey, within: readonly Tag[]): readonly Tag[] {
  const [kind, id = ''] = key.split(' ');
  switch (kind) {
    case 'asking':
      return within.filter((tag) => ASKING.includes(project.proofOf(tag.id).state));
    case 'device':
      return within.filter((tag) => deviceIdOf(tag) === id);
    case 'panel':
    case 'page': {
      const shown = tagsShown(project, kind === 'page' ? [id] : project.pagesOf(id).map((page) => page.id));
      const allowed = new Map(within.map((tag) => [tag.id, tag]));
      return shown.flatMap((tagId) => allowed.get(tagId) ?? []);
    }
    default:
      return within;
  }
}

/** Tags whose value a page draws as a text, as they stand there. */
export function tagsShown(project: ProjectView, pageIds: readonly string[]): readonly string[] {
  const found = new Set<string>();
  for (const pageId of pageIds)
    for (const element of project.elementsOn(pageId)) if (element.tagId !== null && ELEMENTS[element.kind].showsText) found.add(element.tagId);
  return [...found];
}

/** Pages that show at least one of some tags, with those that each shows. */
export function pagesShowing(
  project: ProjectView,
  tagIds: ReadonlySet<string>,
): readonly { readonly pageId: string; readonly tagIds: readonly string[] }[] {
  return project.panels
    .flatMap((panel) => project.pagesOf(panel.id))
    .map((page) => ({ pageId: page.id, tagIds: tagsShown(project, [page.id]).filter((tagId) => tagIds.has(tagId)) }))
    .filter((page) => page.tagIds.length > 0);
}
