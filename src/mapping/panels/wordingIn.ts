/** The translations of a project, put in order once. */
import type { Wording } from '@/core/panel/wording.ts';
import type { Translation } from '@/core/project/entities.ts';

interface Sorted {
  readonly wordings: Map<string, Map<string, string>>;
  readonly byKey: ReadonlyMap<string, Translation>;
}

const made = new WeakMap<ReadonlyMap<string, Translation>, Sorted>();
const keyOf = (code: string, source: string): string => `${code} ${source}`;

function sorted(translations: ReadonlyMap<string, Translation>): Sorted {
  const known = made.get(translations);
  if (known) return known;
  const wordings = new Map<string, Map<string, string>>();
  const byKey = new Map<string, Translation>();
  for (const one of translations.values()) {
    byKey.set(keyOf(one.language, one.source), one);
    if (one.text === '') continue;
    let said = wordings.get(one.language);
    if (!said) wordings.set(one.language, (said = new Map<string, string>()));
    said.set(one.source, one.text);
  }
  const fresh = { wordings, byKey };
  made.set(translations, fresh);
  return fresh;
}

/** @param translations by their ids; another map where one of them is another */
export function wordingIn(translations: ReadonlyMap<string, Translation>, code: string): Wording {
  const { wordings } = sorted(translations);
  let wording = wordings.get(code);
  if (!wording) wordings.set(code, (wording = new Map<string, string>()));
  return wording;
}

export function translationIn(translations: ReadonlyMap<string, Translation>, code: string, source: string): Translation | null {
  return sorted(translations).byKey.get(keyOf(code, source)) ?? null;
}
