'use client';
/** What a button does, step by step. */
import { ArrowUp, Plus, Trash2 } from 'lucide-react';
import { ACT_WORDS, ACTS, isWriting, MOST_ACTIONS, newAction, type Act, type Action } from '@/core/panel/actions.ts';
import { languageName } from '@/core/panel/wording.ts';
import type { Element, Page } from '@/core/project/entities.ts';
import { subjectsOf } from '@/mapping/panels/subjectTags.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { TagPicker } from '../../parts/TagPicker.tsx';

interface ActionsFieldProps {
  readonly element: Element;
  readonly actions: readonly Action[];
  readonly pages: readonly Page[];
  readonly onKeep: (actions: readonly Action[]) => void;
}

export function ActionsField({ element, actions, pages, onKeep }: ActionsFieldProps) {
  const project = useProject();
  const put = (at: number, part: Partial<Action>): void => onKeep(actions.map((action, i) => (i === at ? { ...action, ...part } : action)));
  const isHold = actions.some(({ act }) => act === 'hold');
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="text-xs font-semibold">When it is pressed</legend>
      {actions.map((action, i) => {
        const target = project.tag(action.tagId ?? element.tagId ?? '');
        return (
          <div key={i} className="border-base-300 flex flex-col gap-1 border-l-2 pl-2" data-action={action.act}>
            <div className="flex items-center gap-1">
              <select
                className="select select-xs flex-1"
                aria-label={i === 0 ? 'Does' : `Step ${i + 1} does`}
                value={action.act}
                onChange={(e) => put(i, { act: e.target.value as Act })}
              >
                {ACTS.filter((act) => act !== 'hold' || actions.length === 1).map((act) => (
                  <option key={act} value={act}>
                    {ACT_WORDS[act]}
                  </option>
                ))}
              </select>
              {i > 0 ? (
                <button
                  type="button"
                  className="btn btn-xs btn-ghost btn-square"
                  aria-label={`Step ${i + 1} earlier`}
                  onClick={() => onKeep(actions.map((one, at) => (at === i - 1 ? action : at === i ? (actions[i - 1] ?? one) : one)))}
                >
                  <ArrowUp size={13} aria-hidden />
                </button>
              ) : null}
              <button
                type="button"
                className="btn btn-xs btn-ghost btn-square"
                aria-label={`Remove step ${i + 1}`}
                onClick={() => onKeep(actions.filter((_, at) => at !== i))}
              >
                <Trash2 size={13} aria-hidden />
              </button>
            </div>
            {isWriting(action) ? (
              <>
                <TagPicker
                  value={action.tagId ?? element.tagId}
                  label={i === 0 ? 'Writes tag' : `Step ${i + 1} writes tag`}
                  onPick={(tag) => put(i, { tagId: tag.id === element.tagId ? null : tag.id })}
                />
                {action.act === 'write' || action.act === 'add' ? (
                  <input
                    key={action.value}
                    className="input input-xs num"
                    aria-label={`${action.act === 'add' ? 'Value to add' : 'Value to write'}${target?.unit ? `, ${target.unit}` : ''}`}
                    placeholder={action.act === 'add' ? '1, or −1' : 'value'}
                    defaultValue={action.value}
                    maxLength={200}
                    onBlur={(e) => e.target.value.trim() !== action.value && put(i, { value: e.target.value.trim() })}
                    onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
                  />
                ) : null}
              </>
            ) : null}
            {action.act === 'subject' ? <SubjectOf action={action} pages={pages} onPut={(more) => put(i, more)} /> : null}
            {action.act === 'language' ? <LanguageOf action={action} pages={pages} onPut={(more) => put(i, more)} /> : null}
            {action.act === 'page' ? (
              <select
                className="select select-xs"
                aria-label={`Page of step ${i + 1}`}
                value={action.pageId ?? ''}
                onChange={(e) => put(i, { pageId: e.target.value || null })}
              >
                <option value="">Choose a page</option>
                {pages.map((page) => (
                  <option key={page.id} value={page.id}>
                    {page.name}
                  </option>
                ))}
                {action.pageId !== null && !pages.some(({ id }) => id === action.pageId) ? (
                  <option value={action.pageId}>a page that is gone</option>
                ) : null}
              </select>
            ) : null}
          </div>
        );
      })}
      <div>
        <button
          type="button"
          className="btn btn-xs"
          disabled={isHold || actions.length >= MOST_ACTIONS}
          title={isHold ? 'A button that is held does nothing else' : undefined}
          onClick={() => onKeep([...actions, newAction(actions.length === 0 ? 'toggle' : 'page')])}
        >
          <Plus size={12} aria-hidden /> Step
        </button>
      </div>
      {isHold ? (
        <p className="quiet text-xs">
          On only while it is held: the server lets go within half a second when the page, the browser or the network goes away. It is no safety
          function. Give the controller a watchdog of its own.
        </p>
      ) : null}
    </fieldset>
  );
}

interface StepOfProps {
  readonly action: Action;
  readonly pages: readonly Page[];
  readonly onPut: (more: Partial<Action>) => void;
}

/** Which language a step speaks. */
function LanguageOf({ action, pages, onPut }: StepOfProps) {
  const languages = useProject().panel(pages[0]?.panelId ?? '')?.languages ?? [];
  if (languages.length === 0) return <p className="quiet text-xs">This panel speaks one language: give it more with “Languages”.</p>;
  return (
    <select className="select select-xs" aria-label="Language" value={action.value} onChange={(e) => onPut({ value: e.target.value })}>
      <option value="">Choose one</option>
      {languages.map(({ code, number }) => (
        <option key={code} value={String(number)}>
          {languageName(code)}
        </option>
      ))}
    </select>
  );
}

/** Which subject a step shows, and on which page. */
function SubjectOf({ action, pages, onPut }: StepOfProps) {
  const project = useProject();
  const served = pages.filter(({ subjectListId }) => subjectListId !== null);
  const page = served.find(({ id }) => id === action.pageId);
  const choices = page?.subjectListId ? (subjectsOf(project, page.subjectListId, new Set())?.choices ?? []) : [];
  if (served.length === 0) return <p className="quiet text-xs">No page of this panel serves like things yet.</p>;
  return (
    <div className="grid grid-cols-2 gap-1">
      <select
        className="select select-xs w-full"
        aria-label="Page of the subject"
        value={page?.id ?? ''}
        onChange={(e) => onPut({ pageId: e.target.value || null })}
      >
        <option value="">Choose a page</option>
        {served.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      <select className="select select-xs w-full" aria-label="Subject" value={action.value} onChange={(e) => onPut({ value: e.target.value })}>
        <option value="">Choose one</option>
        {choices.map(({ number, text }) => (
          <option key={number} value={String(number)}>
            {text}
          </option>
        ))}
      </select>
    </div>
  );
}
