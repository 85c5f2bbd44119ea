/** Between an expression as people write it, with the paths of tags, and as it is stored, with their ids. */
import { ok, type Result } from '../result.ts';
import { tokensOf } from './tokens.ts';
import { parseExpression, type Resolve } from './parse.ts';
import { partsOf, type Span } from './tree.ts';

/** Refuses what cannot be read; an expression that has ids already keeps them. */
export function withIds(text: string, resolve: Resolve): Result<string> {
  const tree = parseExpression(text, resolve);
  if (!tree.ok) return tree;
  const named: (Span & { readonly id: string })[] = [];
  for (const part of partsOf(tree.value)) if (part.kind === 'tag') named.push(part);
  return ok(
    replaced(
      text,
      named.map(({ from, to, id }) => ({ from, to, text: `@${id}` })),
    ),
  );
}

/** The inverse of {@link withIds}; a tag that is gone stays an id. @param pathOf a path as expressions write it, null for a tag that is gone */
export function withPaths(stored: string, pathOf: (id: string) => string | null): string {
  const tokens = tokensOf(stored);
  if (!tokens.ok) return stored;
  return replaced(
    stored,
    tokens.value.flatMap((token) => (token.kind === 'id' ? [{ from: token.from, to: token.to, text: pathOf(token.id) ?? `@${token.id}` }] : [])),
  );
}

/** Ids of the tags in a stored expression, each once. */
export function idsIn(stored: string): readonly string[] {
  const ids = new Set<string>();
  for (const [, id] of stored.matchAll(/@([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})/gi)) if (id) ids.add(id.toLowerCase());
  return [...ids];
}

function replaced(text: string, spans: readonly (Span & { readonly text: string })[]): string {
  let out = '';
  let at = 0;
  for (const span of [...spans].sort((a, b) => a.from - b.from)) {
    out += text.slice(at, span.from) + span.text;
    at = span.to;
  }
  return out + text.slice(at);
}
