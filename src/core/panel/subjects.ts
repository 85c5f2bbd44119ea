/**
 * One page for many like things. A page is drawn with the tags of its first subject, the pattern; of any other each tag is the one of
 * the same name there, or of the name that is said once. What a subject does not have is not shown: never the pattern's.
 */
import { sameJson } from '../project/sameJson.ts';
import type { Element } from '../project/kinds/element.ts';
import { retagged } from './retag.ts';
import { tagsUsedBy } from './uses.ts';

/** What a subject may be: a device, a structure at one place, a group. */
export const SUBJECT_KINDS = ['device', 'block', 'group'] as const;
export type SubjectKind = (typeof SUBJECT_KINDS)[number];
export const MOST_SUBJECTS = 250;

export interface Subject {
  readonly of: SubjectKind;
  readonly id: string;
  /** By which it is chosen. */
  readonly number: number;
  /** What stands for `{subject}` in labels and texts; empty for its own name. */
  readonly text: string;
  /** Where names count on, as `s1_gap` and `s2_gap`: what stands in the pattern's names, and what stands there in its own; empty for nothing. */
  readonly find: string;
  readonly put: string;
  /** Members that are called otherwise there; null for one that it does not have. */
  readonly renames: readonly { readonly member: string; readonly as: string | null }[];
}

/** What a member of the pattern is called in a subject; null for one that it does not have. */
export function ownMember({ find, put, renames }: Pick<Subject, 'find' | 'put' | 'renames'>, member: string): string | null {
  const said = renames.find((one) => one.member.toLowerCase() === member.toLowerCase());
  if (said) return said.as;
  const at = find === '' ? -1 : member.toLowerCase().indexOf(find.toLowerCase());
  return at < 0 ? member : member.slice(0, at) + put + member.slice(at + find.length);
}

/** Rules that are tried, and members of the pattern that they come from. */
const TRIED = 60;
const LOOKED_AT = 12;

/**
 * How the names of like things count on, where they do: what is found in the pattern's and what is put there.
 * @param pattern its members, in small letters
 * @param own     those of the other, in small letters
 * @returns null where less than half of them come out
 */
export function namesCountOn(pattern: readonly string[], own: ReadonlySet<string>): Pick<Subject, 'find' | 'put'> | null {
  const hits = (find: string, put: string): number => pattern.filter((member) => own.has(ownMember({ find, put, renames: [] }, member) ?? '')).length;
  let best = { find: '', put: '', count: hits('', '') };
  const tried = new Set<string>();
  // Any of them may be called otherwise, or have no counterpart.
  for (const member of pattern.slice(0, LOOKED_AT))
    for (const other of own) {
      const rule = tried.size >= TRIED ? null : difference(member, other);
      if (!rule || tried.has(`${rule.find} ${rule.put}`)) continue;
      tried.add(`${rule.find} ${rule.put}`);
      const count = hits(rule.find, rule.put);
      if (count > best.count) best = { ...rule, count };
    }
  return best.count * 2 > pattern.length ? { find: best.find, put: best.put } : null;
}

/** The number by which two names differ, with what stands around it up to the next sign of another kind. */
function difference(a: string, b: string): Pick<Subject, 'find' | 'put'> | null {
  let start = 0;
  while (start < a.length && a[start] === b[start]) start++;
  let end = 0;
  while (end < a.length - start && end < b.length - start && a.at(-1 - end) === b.at(-1 - end)) end++;
  // A number is taken whole, with the letters before it and the sign after it.
  while (start > 0 && /[a-z0-9]/.test(a[start - 1] ?? '')) start--;
  while (end > 0 && /[0-9]/.test(a.at(-end) ?? '')) end--;
  if (end > 0) end--;
  const [find, put] = [a.slice(start, a.length - end), b.slice(start, b.length - end)];
  return /^\D*\d+\D?$/.test(find) && /^\D*\d+\D?$/.test(put) ? { find, put } : null;
}

/** A subject as a page goes by it. */
export interface SubjectChoice {
  readonly number: number;
  readonly text: string;
  /** False where the thing itself is gone. */
  readonly isThere: boolean;
  /** Tags of the pattern, and what stands for each here; null for one that it does not have. */
  readonly tags: ReadonlyMap<string, string | null>;
}

export interface SceneSubjects {
  readonly id: string;
  readonly name: string;
  readonly tagId: string | null;
  readonly choices: readonly SubjectChoice[];
}

/** Where the text of the subject stands. */
export const SUBJECT_PLACE = '{subject}';

export interface ForSubject {
  readonly element: Element;
  /** The subject does not have all that it shows or writes. */
  readonly isMissing: boolean;
}

const made = new WeakMap<SubjectChoice, WeakMap<Element, ForSubject>>();

/** An element as it is for a subject; the same object as long as both are the same. */
export function forSubject(element: Element, choice: SubjectChoice): ForSubject {
  let known = made.get(choice);
  if (!known) made.set(choice, (known = new WeakMap<Element, ForSubject>()));
  let done = known.get(element);
  if (!done) known.set(element, (done = makeFor(element, choice)));
  return done;
}

function makeFor(element: Element, choice: SubjectChoice): ForSubject {
  const isMissing = !choice.isThere || tagsUsedBy(element).some((id) => choice.tags.get(id) === null);
  if (isMissing) return { element, isMissing };
  const changed = retagged(element, (id) => choice.tags.get(id) ?? id);
  const named = withSubjectText({ ...element, ...changed }, choice.text);
  return { element: sameJson(named, element) ? element : named, isMissing };
}

/** Its label and texts with the name of the subject in them. */
function withSubjectText(element: Element, text: string): Element {
  const label = element.label.replaceAll(SUBJECT_PLACE, text);
  const settings = Object.fromEntries(
    Object.entries(element.settings).map(([name, value]) => {
      if (typeof value !== 'string') return [name, value];
      // In a text with places for values a brace of the name stands doubled.
      return [name, value.replaceAll(SUBJECT_PLACE, name === 'template' ? text.replaceAll('{', '{{').replaceAll('}', '}}') : text)];
    }),
  );
  return { ...element, label, settings };
}

/** What it is called where a page has it in its name. */
export function withSubject(text: string, choice: SubjectChoice | null): string {
  return text.replaceAll(SUBJECT_PLACE, choice?.text ?? '–');
}

/** What one page for all saves, against one page for each. */
export interface Saving {
  readonly subjects: number;
  readonly elements: number;
  /** Tags that elements name, and that they would name on a page each. */
  readonly tags: number;
  readonly tagsWithout: number;
}

export function savingOf(elements: readonly Element[], { choices }: Pick<SceneSubjects, 'choices'>): Saving {
  const used = new Set(elements.flatMap(tagsUsedBy));
  const [pattern] = choices;
  const members = [...used].filter((id) => pattern?.tags.has(id));
  const without = choices.reduce((sum, { tags }) => sum + members.filter((id) => tags.get(id) !== null).length, 0);
  return { subjects: choices.length, elements: elements.length, tags: members.length, tagsWithout: without };
}
