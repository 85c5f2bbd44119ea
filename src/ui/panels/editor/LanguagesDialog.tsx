'use client';
/** The languages of a panel: which it speaks, what its texts are in each, what is missing or too long; out to a translator and in again. */
import { Download, Plus, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import { OFFERED_LANGUAGES } from '@/core/panel/languageCodes.ts';
import type { TextsRead } from '@/core/panel/textTable.ts';
import { languageCode, languageName, MOST_LANGUAGES, type PanelLanguage } from '@/core/panel/wording.ts';
import type { Panel } from '@/core/project/entities.ts';
import { panelTexts } from '@/mapping/panels/panelTexts.ts';
import { sendFile } from '../../live/api.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FileDrop } from '../../parts/FileDrop.tsx';
import { keptField } from '../../parts/keptField.ts';
import { TextRows } from './TextRows.tsx';
import { translationChanges } from './translationChanges.ts';

export function LanguagesDialog({ panel, onClose }: { readonly panel: Panel; readonly onClose: () => void }) {
  const { languages } = panel;
  const [first, ...others] = languages;
  return (
    <Dialog title={`Languages of ${panel.name}`} onClose={onClose} wide>
      <p className="quiet mb-3 text-sm">
        All that the panel says, in any number of languages. A button (“speak a language”), a tag or the controller (“With the controller”) switches
        by number, at once.
      </p>
      <LanguageList panel={panel} />
      {first && others.length > 0 ? <Texts panel={panel} /> : null}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

function LanguageList({ panel }: { readonly panel: Panel }) {
  const change = useChange();
  const { languages } = panel;
  const [typed, setTyped] = useState('');
  const keep = (next: readonly PanelLanguage[], what: string): Promise<{ readonly ok: boolean }> =>
    change(`${what} of ${panel.name}`, [{ kind: 'panel', id: panel.id, set: { languages: next } }]);
  const put = (code: string, part: Partial<PanelLanguage>, what: string): Promise<unknown> =>
    keep(
      languages.map((one) => (one.code === code ? { ...one, ...part } : one)),
      what,
    );
  const add = async (): Promise<void> => {
    const code = languageTyped(typed);
    if (!code.ok) return void toast.error(code.problem.message, { description: code.problem.remedy });
    if (languages.some((one) => one.code === code.value)) return void toast(`${languageName(code.value)} is there already.`);
    // What the texts are written in is one of them, from the first further one on.
    const before = languages.length > 0 ? languages : code.value === 'en' ? [] : [{ code: 'en', number: 0 }];
    const number = Math.max(-1, ...before.map((one) => one.number)) + 1;
    const done = await keep([...before, { code: code.value, number }], `${languageName(code.value, 'en')} added to the languages`);
    if (done.ok) setTyped('');
  };
  return (
    <div className="mb-4 flex flex-col gap-2">
      {languages.length > 0 ? (
        <table className="table-sm table w-auto">
          <thead>
            <tr>
              <th>Language</th>
              <th>Number</th>
              <th />
              <th />
            </tr>
          </thead>
          <tbody>
            {languages.map(({ code, number }, at) => (
              <tr key={code} data-language={code}>
                <td>
                  <span lang={code}>{languageName(code)}</span> <span className="quiet">{code}</span>
                </td>
                <td>
                  <input
                    key={number}
                    className="input input-xs num w-16"
                    aria-label={`Number of ${languageName(code, 'en')}`}
                    {...keptField(String(number), (text) => put(code, { number: Number(text) }, 'a number of the languages'), true)}
                  />
                </td>
                <td className="quiet">
                  {at === 0 ? (
                    'the texts are written in it'
                  ) : (
                    <button
                      type="button"
                      className="btn btn-xs btn-ghost"
                      title="The texts of the panel are written in this one"
                      onClick={() => void keep([{ code, number }, ...languages.filter((one) => one.code !== code)], 'the language of the texts')}
                    >
                      write the texts in it
                    </button>
                  )}
                </td>
                <td>
                  <button
                    type="button"
                    className="btn btn-xs btn-ghost btn-square"
                    aria-label={`Leave out ${languageName(code, 'en')}`}
                    title="Its translations are kept in the project"
                    onClick={() =>
                      void keep(
                        languages.filter((one) => one.code !== code),
                        `${languageName(code, 'en')} left out of the languages`,
                      )
                    }
                  >
                    <X size={13} aria-hidden />
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="quiet text-sm">It speaks one language: that in which its texts are written.</p>
      )}
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Another language
          <input
            className="input input-sm w-56"
            list="offered-languages"
            placeholder="German, or its code"
            maxLength={60}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
        <datalist id="offered-languages">
          {OFFERED_LANGUAGES.map((code) => (
            <option key={code} value={languageName(code, 'en')} label={`${code}, ${languageName(code)}`} />
          ))}
        </datalist>
        <button type="submit" className="btn btn-sm" disabled={typed.trim() === '' || languages.length >= MOST_LANGUAGES}>
          <Plus size={13} aria-hidden /> Add
        </button>
      </form>
    </div>
  );
}

/** A language by its name in English or in itself, or by its code. */
function languageTyped(typed: string) {
  const wanted = typed.trim().toLowerCase();
  const named = OFFERED_LANGUAGES.find((code) => [languageName(code, 'en'), languageName(code)].some((name) => name.toLowerCase() === wanted));
  return languageCode(named ?? typed);
}

function Texts({ panel }: { readonly panel: Panel }) {
  const project = useProject();
  const change = useChange();
  const texts = useMemo(
    () =>
      panelTexts(
        project,
        panel.id,
        project.panels.map(({ id }) => id),
        project.translations,
      ),
    [project, panel.id],
  );
  const [code, setCode] = useState<string | null>(null);
  const [typed, setTyped] = useState('');
  if (!texts) return null;
  const at = Math.max(0, texts.codes.indexOf(code ?? ''));
  const shown = texts.codes[at] ?? '';
  const addText = async (): Promise<void> => {
    const done = await change(
      'a text of a controller added',
      translationChanges(project, [{ language: shown, source: typed, before: '', after: '' }]),
    );
    if (done.ok) setTyped('');
  };
  return (
    <section aria-label="Texts" className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-1" role="tablist" aria-label="Translated into">
        {texts.codes.map((one, i) => {
          const missing = texts.rows.filter(({ marks }) => marks[i] === 'missing').length;
          const long = texts.rows.filter(({ marks }) => marks[i] === 'too long').length;
          const rest = [missing > 0 ? `${missing} missing` : '', long > 0 ? `${long} too long` : ''].filter(Boolean).join(', ');
          return (
            <button
              key={one}
              type="button"
              role="tab"
              aria-selected={one === shown}
              className={`btn btn-sm ${one === shown ? 'btn-primary' : 'btn-ghost'}`}
              onClick={() => setCode(one)}
            >
              <span lang={one}>{languageName(one)}</span> <span className="font-normal">{rest || 'all there'}</span>
            </button>
          );
        })}
        <span className="flex-1" />
        {(['csv', 'xlsx'] as const).map((format) => (
          <a key={format} className="btn btn-sm btn-ghost" href={`/api/v1/panels/${panel.id}/texts?format=${format}`} download>
            <Download size={13} aria-hidden /> {format.toUpperCase()}
          </a>
        ))}
      </div>
      <TextRows key={shown} rows={texts.rows} at={at} code={shown} />
      <form
        className="flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void addText();
        }}
      >
        <input
          className="input input-sm w-72"
          aria-label="A text that a controller sends"
          placeholder="A text that a controller sends"
          maxLength={200}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button type="submit" className="btn btn-sm" disabled={typed.trim() === ''}>
          <Plus size={13} aria-hidden /> Add
        </button>
      </form>
      <TakeIn panel={panel} />
    </section>
  );
}

/** A file that a translator sends back: what it would change is told first. */
function TakeIn({ panel }: { readonly panel: Panel }) {
  const project = useProject();
  const change = useChange();
  const [name, setName] = useState<string | null>(null);
  const [read, setRead] = useState<TextsRead | null>(null);
  const [problem, setProblem] = useState('');
  const open = async (file: File): Promise<void> => {
    setName(file.name);
    setRead(null);
    setProblem('');
    const done = await sendFile<TextsRead>(`/panels/${panel.id}/texts`, file);
    if (done.ok) setRead(done.value);
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`.trim());
  };
  const take = async (): Promise<void> => {
    if (!read) return;
    const done = await change(`texts of ${panel.name} taken in from ${name ?? 'a file'}`, translationChanges(project, read.changes));
    if (!done.ok) return;
    setName(null);
    setRead(null);
    toast(`${counted(read.changes.length, 'translation')} taken in`);
  };
  return (
    <div className="flex flex-col gap-2">
      <FileDrop label="File of texts" ask="Take in a file: CSV or XLSX" accept=".csv,.txt,.xlsx" chosen={name} onFile={(file) => void open(file)} />
      {problem === '' ? null : (
        <p className="is-bad text-sm" role="alert">
          ✕ {problem}
        </p>
      )}
      {read ? (
        <div className="flex flex-col gap-1 text-sm" role="status">
          <p>
            {read.changes.length === 0
              ? 'It says nothing new.'
              : `${counted(read.changes.length, 'translation')} would change (${read.languages.map((code) => languageName(code, 'en')).join(', ')}).`}
            {read.unknown > 0
              ? ` ${counted(read.unknown, 'text')} of the file ${read.unknown === 1 ? 'is' : 'are'} none of this panel, and left out.`
              : ''}
          </p>
          {read.problems.length === 0 ? null : (
            <ul className="is-look max-h-32 list-disc overflow-auto pl-5">
              {read.problems.map(({ place, message, remedy }, i) => (
                <li key={i}>
                  {place}: {message} {remedy}
                </li>
              ))}
            </ul>
          )}
          {read.changes.length === 0 ? null : (
            <button type="button" className="btn btn-sm btn-primary self-start" onClick={() => void take()}>
              Take in {counted(read.changes.length, 'translation')}
            </button>
          )}
        </div>
      ) : null}
    </div>
  );
}
