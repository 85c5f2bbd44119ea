'use client';
/** Which of its like things a page shows: chosen on the glass, or by the value of a tag. */
import { createContext, useContext, useMemo, useState, type ReactNode } from 'react';
import type { SceneSubjects, SubjectChoice } from '@/core/panel/subjects.ts';
import { fromJson, asNumber } from '@/core/value/engineering.ts';
import { useTagView } from '../live/liveHooks.ts';
import { useStage } from './SceneContext.tsx';

interface Chosen {
  /** The number of the subject that is chosen of each list; the first where nobody has chosen. */
  readonly numbers: ReadonlyMap<string, number>;
  readonly choose: (listId: string, number: number) => void;
}

const ChosenContext = createContext<Chosen>({ numbers: new Map(), choose: () => undefined });

export function SubjectsProvider({ children }: { readonly children: ReactNode }) {
  const [numbers, setNumbers] = useState<ReadonlyMap<string, number>>(new Map());
  const chosen = useMemo<Chosen>(
    () => ({ numbers, choose: (listId, number) => setNumbers((known) => new Map(known).set(listId, number)) }),
    [numbers],
  );
  return <ChosenContext.Provider value={chosen}>{children}</ChosenContext.Provider>;
}

export function useChooseSubject(): Chosen['choose'] {
  return useContext(ChosenContext).choose;
}

export interface PageSubject {
  /** Null where the page is of nothing in particular. */
  readonly list: SceneSubjects | null;
  /** Null where it is not known which one is to be shown, or there is none of that number. */
  readonly choice: SubjectChoice | null;
  /** Why there is none; empty while there is one. */
  readonly why: string;
}

const NO_SUBJECT: PageSubject = { list: null, choice: null, why: '' };

export function useSubject(pageId: string): PageSubject {
  const { scene, values, isArranged } = useStage();
  const { numbers } = useContext(ChosenContext);
  const list = scene.subjectsOn(pageId);
  // While a page is arranged, or without the machine's values, nothing says which one is shown: then it is chosen here.
  const tagId = values === 'live' && !isArranged ? (list?.tagId ?? null) : null;
  const view = useTagView(tagId);
  if (!list) return NO_SUBJECT;
  let number = numbers.get(list.id) ?? list.choices[0]?.number ?? null;
  if (tagId !== null) {
    const eng = view?.level === 'bad' || !view?.sample?.eng ? null : fromJson(view.sample.eng);
    number = eng?.ok === true ? asNumber(eng.value) : null;
    if (number === null) return { list, choice: null, why: `Which one is shown is not known: ${view?.why ?? 'no value yet'}.` };
  }
  const choice = list.choices.find((one) => one.number === number) ?? null;
  if (choice === null) return { list, choice, why: number === null ? `${list.name} has no subject yet.` : `No subject has the number ${number}.` };
  return choice.isThere ? { list, choice, why: '' } : { list, choice: null, why: `${choice.text}: it is not there any more.` };
}

const OfPage = createContext<PageSubject>(NO_SUBJECT);
export const PageSubjectProvider = OfPage.Provider;

/** The subject of the page that an element stands on. */
export function usePageSubject(): PageSubject {
  return useContext(OfPage);
}

/** For which of its subjects a page is drawn while it is arranged. */
export function SubjectPreview({ pageId }: { readonly pageId: string }) {
  const { list, choice } = useSubject(pageId);
  const choose = useChooseSubject();
  if (!list) return null;
  return (
    <label className="quiet flex items-center gap-1 text-xs">
      Of
      <select className="select select-xs w-28" value={choice?.number ?? ''} onChange={(e) => choose(list.id, Number(e.target.value))}>
        <SubjectOptions list={list} choice={choice} />
      </select>
    </label>
  );
}

/** The subjects to choose from; a dash while none is chosen. */
export function SubjectOptions({ list, choice }: { readonly list: SceneSubjects; readonly choice: SubjectChoice | null }) {
  return (
    <>
      {choice === null ? <option value="">–</option> : null}
      {list.choices.map(({ number, text }) => (
        <option key={number} value={number}>
          {text}
        </option>
      ))}
    </>
  );
}
