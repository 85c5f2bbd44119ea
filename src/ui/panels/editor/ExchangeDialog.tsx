'use client';
/** What a panel and its controller say to each other: the words, who prevails, the numbers of pages, keys, and how it goes now. */
import { ListPlus, X } from 'lucide-react';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import {
  pageNumbers,
  RESULT_WORDS,
  ROLES,
  WORD_ROLES,
  wordTag,
  type Exchange,
  type Screens,
  type WhenBoth,
  type WordRole,
} from '@/core/panel/exchange.ts';
import type { Element, Page, Panel, PanelWord, Tag } from '@/core/project/entities.ts';
import { useChange, useChangeInTurn, useProject } from '../../live/LiveContext.tsx';
import { useStatus, useTagView } from '../../live/liveHooks.ts';
import type { ProjectView } from '../../live/project.ts';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { timeOfDay } from '../../parts/moment.ts';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { nextTag } from './nextTag.ts';
import { NumberField } from './NumberField.tsx';

const WHEN_WORDS: Readonly<Record<WhenBoth, string>> = {
  latest: 'whoever asked last',
  controller: 'the controller: its page is kept until it wants none',
  person: 'a person who has just touched the glass',
};
const SCREEN_WORDS: Readonly<Record<Screens, string>> = {
  apart: 'each its own page; the controller hears of the first screen’s',
  together: 'one page, which a person at any of them chooses',
  leader: 'the page of the first screen; the others follow',
};

interface ExchangeDialogProps {
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly onClose: () => void;
}

export function ExchangeDialog({ panel, pages, onClose }: ExchangeDialogProps) {
  const words = useProject().wordsOf(panel.id);
  return (
    <Dialog title={`${panel.name} and its controller`} onClose={onClose} wide>
      <div className="flex flex-col gap-5">
        <NowLine panel={panel} pages={pages} />
        <WordTable panel={panel} words={words} />
        <Agreement panel={panel} />
        <PageNumbers panel={panel} pages={pages} />
        <Keys panel={panel} pages={pages} words={words} />
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

/** How it goes now, as the server knows it. */
function NowLine({ panel, pages }: { readonly panel: Panel; readonly pages: readonly Page[] }) {
  const now = useStatus()?.panels.find(({ panelId }) => panelId === panel.id);
  if (!now || (now.screens === 0 && now.command === null)) return <p className="quiet">No screen shows the panel now.</p>;
  const page = pages.find(({ id }) => id === now.pageId);
  return (
    <div role="status" className="hairline flex flex-col gap-1 rounded-md p-3">
      <p>
        {now.screens === 0 ? 'No screen shows it now.' : `${page?.name ?? 'A page'} is shown, on ${counted(now.screens, 'screen')}.`}
        {now.command === null ? '' : ` The last command: ${now.command.said} at ${timeOfDay(now.command.at)}, ${RESULT_WORDS[now.command.result]}.`}
      </p>
      {now.untold === '' ? null : <p className="is-look text-xs">◑ The controller is not told: {now.untold}</p>}
    </div>
  );
}

function WordTable({ panel, words }: { readonly panel: Panel; readonly words: readonly PanelWord[] }) {
  const project = useProject();
  const change = useChange();
  const wordOf = (role: WordRole): PanelWord | undefined => words.find((word) => word.role === role);
  const put = (role: WordRole, tag: Tag): void =>
    void change(`${ROLES[role].label} of ${panel.name} set`, [
      { kind: 'panelWord', id: wordOf(role)?.id ?? uuid(), set: { panelId: panel.id, role, tagId: tag.id, elementId: null } },
    ]);
  const free = WORD_ROLES.filter((role) => role !== 'key' && ROLES[role].takes === 'number');
  return (
    <table className="w-full text-sm">
      <caption className="quiet mb-1 text-left text-xs">
        Each is a tag of its own, or an element of an array. The panel writes only while its device is open for panels.
      </caption>
      <tbody>
        {WORD_ROLES.filter((role) => role !== 'key').map((role) => {
          const word = wordOf(role);
          const { label, use, by } = ROLES[role];
          return (
            <tr key={role} className="border-base-300 border-t align-top">
              <th scope="row" className="w-32 py-1.5 pr-3 text-left font-semibold">
                {label}
                <span className="quiet block text-[11px] font-normal">{by === 'panel' ? 'the panel writes' : 'the controller writes'}</span>
              </th>
              <td className="w-64 py-1.5 pr-3">
                <TagPicker label={label} value={word?.tagId ?? null} only={(tag) => fits(project, role, tag)} onPick={(tag) => put(role, tag)} />
                <WordProblem role={role} word={word} />
              </td>
              <td className="num w-28 py-1.5 pr-3">{word ? <WordValue tagId={word.tagId} /> : null}</td>
              <td className="quiet py-1.5 text-xs">{use}</td>
              <td className="w-16 py-1 text-right whitespace-nowrap">
                {word && free.includes(role) ? (
                  <CountOn panel={panel} role={role} word={word} roles={free.filter((other) => ROLES[other].by === by)} taken={words} />
                ) : null}
                {word ? (
                  <button
                    type="button"
                    className="btn btn-xs btn-ghost btn-square"
                    aria-label={`Take ${label} away`}
                    title="Take it away"
                    onClick={() => void change(`${label} of ${panel.name} taken away`, [{ kind: 'panelWord', id: word.id, set: null }])}
                  >
                    <X size={13} aria-hidden />
                  </button>
                ) : null}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface CountOnProps {
  readonly panel: Panel;
  readonly role: WordRole;
  readonly word: PanelWord;
  /** Those of one block, in their order. */
  readonly roles: readonly WordRole[];
  readonly taken: readonly PanelWord[];
}

/** Lays the words below out over the tags that count on: the elements of an array, as far as there are. */
function CountOn({ panel, role, word, roles, taken }: CountOnProps) {
  const project = useProject();
  const change = useChange();
  const below = roles.slice(roles.indexOf(role) + 1).filter((other) => !taken.some((one) => one.role === other));
  const made = below.flatMap((other, i) => {
    const tagId = nextTag(project, word.tagId, i + 1);
    return tagId === null ? [] : [{ kind: 'panelWord' as const, id: uuid(), set: { panelId: panel.id, role: other, tagId, elementId: null } }];
  });
  if (made.length === 0) return null;
  const names = below.slice(0, made.length).map((other) => ROLES[other].label);
  return (
    <button
      type="button"
      className="btn btn-xs btn-ghost btn-square"
      aria-label={`Lay out what follows ${ROLES[role].label}`}
      title={`Count on from here: ${names.join(', ')}`}
      onClick={() => void change(`words of ${panel.name} laid out`, made)}
    >
      <ListPlus size={13} aria-hidden />
    </button>
  );
}

function fits(project: ProjectView, role: WordRole, tag: Tag): boolean {
  const signal = project.effective(tag.id);
  // One that is not written is offered all the same: what to change is said once it is chosen.
  return signal.ok && wordTag(role, signal.value.def, true).ok;
}

function WordProblem({ role, word }: { readonly role: WordRole; readonly word: PanelWord | undefined }) {
  const project = useProject();
  if (!word) return null;
  const signal = project.effective(word.tagId);
  const said = signal.ok ? wordTag(role, signal.value.def, signal.value.writable) : signal;
  return said.ok ? null : <p className="is-bad mt-0.5 text-xs">✕ {said.problem.message}</p>;
}

function WordValue({ tagId }: { readonly tagId: string }) {
  const view = useTagView(tagId);
  return view === null || view.level === 'bad' ? (
    <span className="quiet" title={view?.why}>
      –
    </span>
  ) : (
    <span title={view.why}>
      {view.level === 'uncertain' ? '? ' : ''}
      {view.text}
    </span>
  );
}

function Agreement({ panel }: { readonly panel: Panel }) {
  const change = useChange();
  const { exchange } = panel;
  const inTurn = useChangeInTurn();
  const set = (what: string, fields: Partial<Exchange>): void =>
    void inTurn(`${what} of ${panel.name} changed`, (now) => [
      { kind: 'panel', id: panel.id, set: { exchange: { ...(now.panel(panel.id)?.exchange ?? exchange), ...fields } } },
    ]);
  return (
    <div className="grid grid-cols-4 items-end gap-3">
      <NumberField
        label="Offset"
        help="Added to what the controller says: with 10, its 0, 1, 2 are the pages 10, 11, 12."
        value={exchange.offset}
        min={-65_535}
        max={65_535}
        onKeep={(offset) => set('offset', { offset: offset ?? 0 })}
      />
      <NumberField
        label="Wants no page with"
        help="What the controller says while it wants no page; empty where every number is a page."
        value={exchange.noWish}
        min={-65_535}
        max={65_535}
        onKeep={(noWish) => set('number for no page', { noWish: noWish ?? null })}
      />
      <label className="col-span-2 flex flex-col gap-0.5 text-xs font-semibold">
        Of two wishes counts that of
        <select
          className="select select-sm w-full"
          value={exchange.whenBoth}
          onChange={(e) => set('who prevails', { whenBoth: e.target.value as WhenBoth })}
        >
          {Object.entries(WHEN_WORDS).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      </label>
      {exchange.whenBoth === 'person' ? (
        <NumberField
          label="For so many seconds"
          value={exchange.personSeconds}
          min={1}
          max={3600}
          onKeep={(seconds) => set('time after a touch', { personSeconds: seconds ?? 60 })}
        />
      ) : null}
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        Time written daily at
        <input
          key={exchange.clockDaily}
          type="time"
          className="input input-sm num w-full"
          defaultValue={exchange.clockDaily === null ? '' : minuteText(exchange.clockDaily)}
          onBlur={(e) => {
            const [hours = NaN, minutes = NaN] = e.target.value.split(':').map(Number);
            const clockDaily = e.target.value === '' ? null : hours * 60 + minutes;
            if (clockDaily !== exchange.clockDaily) set('time of the clock', { clockDaily });
          }}
        />
      </label>
      <label className="col-span-2 flex flex-col gap-0.5 text-xs font-semibold">
        Several screens show
        <select
          className="select select-sm w-full"
          value={panel.screens}
          onChange={(e) => void change(`screens of ${panel.name} changed`, [{ kind: 'panel', id: panel.id, set: { screens: e.target.value } }])}
        >
          {Object.entries(SCREEN_WORDS).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}

const minuteText = (minute: number): string => `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

function PageNumbers({ panel, pages }: { readonly panel: Panel; readonly pages: readonly Page[] }) {
  const change = useChange();
  const numbers = pageNumbers(pages);
  return (
    <table className="text-sm">
      <caption className="quiet mb-1 text-left text-xs">A page without a number of its own has that of its place.</caption>
      <thead>
        <tr className="quiet text-left text-xs">
          <th className="pr-6 font-semibold">Page</th>
          <th className="pr-6 font-semibold">Number</th>
          <th className="font-semibold">The controller says</th>
        </tr>
      </thead>
      <tbody>
        {pages.map(({ id, name, number }) => (
          <tr key={id} className="border-base-300 border-t">
            <td className="max-w-60 truncate py-1 pr-6">{name}</td>
            <td className="py-1 pr-6">
              <input
                key={`${id} ${number}`}
                className="input input-sm num w-24"
                aria-label={`Number of ${name}`}
                inputMode="numeric"
                placeholder={String(numbers.get(id) ?? '')}
                defaultValue={number ?? ''}
                onBlur={(e) => {
                  const text = e.target.value.trim();
                  const next = text === '' ? null : Number(text);
                  if (next === number) return;
                  if (next === null || (Number.isInteger(next) && next >= 0 && next <= 65_535))
                    void change(`number of ${name} changed`, [{ kind: 'page', id, set: { number: next } }]);
                  else e.target.value = number === null ? '' : String(number);
                }}
              />
            </td>
            <td className="num py-1">{(numbers.get(id) ?? 0) - panel.exchange.offset}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface KeysProps extends Omit<ExchangeDialogProps, 'onClose'> {
  readonly words: readonly PanelWord[];
}

/** Buttons whose presses the controller hears of: bits that are on as long as they are pressed. */
function Keys({ panel, pages, words }: KeysProps) {
  const project = useProject();
  const change = useChange();
  const keys = words.filter(({ role }) => role === 'key');
  const buttons = pages.flatMap((page) =>
    project.elementsOn(page.id).flatMap((element) => (element.kind === 'button' ? [{ element, title: `${page.name}: ${nameOf(element)}` }] : [])),
  );
  const free = buttons.filter(({ element }) => !keys.some(({ elementId }) => elementId === element.id));
  const lastTag = keys.at(-1)?.tagId;
  const add = (element: Element, tagId: string): void =>
    void change(`key ${nameOf(element)} made`, [
      { kind: 'panelWord', id: uuid(), set: { panelId: panel.id, role: 'key', tagId, elementId: element.id } },
    ]);
  const [next] = free;
  const counted = lastTag === undefined ? null : nextTag(project, lastTag, 1);
  return (
    <section className="flex flex-col gap-1.5">
      <h3 className="text-sm font-semibold">
        Keys <span className="quiet text-xs font-normal">{ROLES.key.use}</span>
      </h3>
      {keys.map((key) => {
        const title = buttons.find(({ element }) => element.id === key.elementId)?.title ?? 'a button that is gone';
        return (
          <div key={key.id} className="flex items-start gap-3">
            <span className="w-56 truncate pt-1.5 text-sm" title={title}>
              {title}
            </span>
            <div className="w-64">
              <TagPicker
                label={`Bit of ${title}`}
                value={key.tagId}
                only={(tag) => fits(project, 'key', tag)}
                onPick={(tag) => void change('bit of a key changed', [{ kind: 'panelWord', id: key.id, set: { tagId: tag.id } }])}
              />
              <WordProblem role="key" word={key} />
            </div>
            <span className="num pt-1.5 text-sm">
              <WordValue tagId={key.tagId} />
            </span>
            <button
              type="button"
              className="btn btn-xs btn-ghost btn-square mt-1"
              aria-label={`Take the key ${title} away`}
              onClick={() => void change('key taken away', [{ kind: 'panelWord', id: key.id, set: null }])}
            >
              <X size={13} aria-hidden />
            </button>
          </div>
        );
      })}
      {next ? (
        <div className="flex items-start gap-3">
          <span className="quiet w-56 truncate pt-1.5 text-sm" title={next.title}>
            {next.title}
          </span>
          <div className="w-64">
            <TagPicker
              label={`Bit of ${next.title}`}
              value={null}
              only={(tag) => fits(project, 'key', tag)}
              onPick={(tag) => add(next.element, tag.id)}
            />
          </div>
          {counted !== null ? (
            <button type="button" className="btn btn-xs mt-1" onClick={() => add(next.element, counted)}>
              {project.tag(counted)?.name}
            </button>
          ) : null}
        </div>
      ) : (
        <p className="quiet text-xs">{buttons.length === 0 ? 'The panel has no button yet.' : 'Every button of it is a key.'}</p>
      )}
    </section>
  );
}

function nameOf({ label, settings }: Element): string {
  return label || (typeof settings.caption === 'string' ? settings.caption : '') || 'button';
}
