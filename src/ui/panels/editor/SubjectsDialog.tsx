'use client';
/** One page for many like things: which they are, what each is called, what one of them calls otherwise, and what that saves. */
import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { MOST_SUBJECTS, namesCountOn, ownMember, savingOf, type Subject, type SubjectKind } from '@/core/panel/subjects.ts';
import { freeName } from '@/core/project/freeName.ts';
import type { Page, Panel, SubjectList } from '@/core/project/entities.ts';
import { membersOfSubject, subjectsOf } from '@/mapping/panels/subjectTags.ts';
import { useChange, useChangeInTurn, useProject } from '../../live/LiveContext.tsx';
import type { ProjectView } from '../../live/project.ts';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { keptField } from '../../parts/keptField.ts';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { tagsUsedBy } from '@/core/panel/uses.ts';

interface SubjectsDialogProps {
  readonly panel: Panel;
  readonly page: Page;
  readonly onClose: () => void;
}

export function SubjectsDialog({ panel, page, onClose }: SubjectsDialogProps) {
  const project = useProject();
  const change = useChange();
  const list = page.subjectListId === null ? null : project.subjectList(page.subjectListId);
  const give = (subjectListId: string | null, what: string): void => void change(what, [{ kind: 'page', id: page.id, set: { subjectListId } }]);
  const make = (): void => {
    const id = uuid();
    const name = freeName('Subjects', project.subjectLists);
    void change(`subjects of ${page.name} made`, [
      { kind: 'subjectList', id, set: { name, subjects: [] } },
      { kind: 'page', id: page.id, set: { subjectListId: id } },
    ]);
  };
  return (
    <Dialog title={`Subjects of ${page.name}`} onClose={onClose} wide>
      <p className="quiet mb-3 text-sm">
        One page for many like devices, structures or groups: it is drawn with the tags of the first, and shows those of the one that is chosen.{' '}
        {'{subject}'} in labels, texts and the name of the page stands for what it is called.
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Serves
          <select
            className="select select-sm w-56"
            value={list?.id ?? ''}
            onChange={(e) => give(e.target.value || null, `subjects of ${page.name} changed`)}
          >
            <option value="">nothing in particular</option>
            {project.subjectLists.map(({ id, name, subjects }) => (
              <option key={id} value={id}>
                {name} ({subjects.length})
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="btn btn-sm" onClick={make}>
          <Plus size={13} aria-hidden /> New subjects
        </button>
        {list ? (
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            What one does not have
            <select
              className="select select-sm w-44"
              value={page.absent}
              onChange={(e) =>
                void change(`what ${page.name} does with what is missing changed`, [{ kind: 'page', id: page.id, set: { absent: e.target.value } }])
              }
            >
              <option value="hide">is hidden</option>
              <option value="say">says so</option>
            </select>
          </label>
        ) : null}
      </div>
      {list ? <ListForm key={list.id} list={list} panel={panel} /> : null}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

function ListForm({ list, panel }: { readonly list: SubjectList; readonly panel: Panel }) {
  const change = useChange();
  const inTurn = useChangeInTurn();
  const keep = (made: (subjects: readonly Subject[]) => readonly Subject[], what: string): Promise<unknown> =>
    inTurn(`${what} of ${list.name}`, (now) => [
      { kind: 'subjectList', id: list.id, set: { subjects: made(now.subjectList(list.id)?.subjects ?? []) } },
    ]);
  const put = (of: Subject, part: (one: Subject) => Partial<Subject>, what: string): Promise<unknown> =>
    keep((subjects) => subjects.map((one) => (one.id === of.id ? { ...one, ...part(one) } : one)), what);
  const [first] = list.subjects;
  return (
    <div className="flex flex-col gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Name
          <input
            key={list.name}
            className="input input-sm w-56"
            maxLength={80}
            {...keptField(list.name, (name) => change(`subjects renamed to ${name}`, [{ kind: 'subjectList', id: list.id, set: { name } }]), true)}
          />
        </label>
        <div className="flex flex-col gap-0.5 text-xs font-semibold">
          Chosen by the value of
          <span className="flex items-center gap-1">
            <TagPicker
              label="Tag whose number chooses the subject"
              value={list.tagId}
              onPick={(tag) => void change(`choice of ${list.name} changed`, [{ kind: 'subjectList', id: list.id, set: { tagId: tag.id } }])}
            />
            {list.tagId === null ? (
              <span className="quiet font-normal">no tag: each glass chooses for itself</span>
            ) : (
              <button
                type="button"
                className="btn btn-xs btn-ghost"
                onClick={() => void change(`choice of ${list.name} changed`, [{ kind: 'subjectList', id: list.id, set: { tagId: null } }])}
              >
                Each glass by itself
              </button>
            )}
          </span>
        </div>
      </div>
      <SavingLine list={list} panel={panel} />
      {list.subjects.length === 0 ? (
        <p className="quiet text-sm">None yet. The first one is the pattern: draw the page with its tags.</p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <tr className="quiet text-left text-xs">
              <th className="w-20 font-semibold">Number</th>
              <th className="w-52 font-semibold">Called</th>
              <th className="font-semibold">Is</th>
              <th className="font-semibold">Members</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.subjects.map((subject, at) => (
              <SubjectRow
                key={`${subject.of} ${subject.id}`}
                subject={subject}
                pattern={at === 0 ? null : (first ?? null)}
                onPut={(part, what) => put(subject, part, what)}
                onRemove={() => void keep((subjects) => subjects.filter(({ id }) => id !== subject.id), 'a subject taken away')}
              />
            ))}
          </tbody>
        </table>
      )}
      <AddSubjects list={list} onAdd={(more) => void keep((subjects) => [...subjects, ...more], `${counted(more.length, 'subject')} added`)} />
      <div>
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          onClick={() => void change(`subjects ${list.name} removed`, [{ kind: 'subjectList', id: list.id, set: null }])}
        >
          Remove these subjects
        </button>
      </div>
    </div>
  );
}

/** Pages, tags and readings, with one page for all and with one for each. */
function SavingLine({ list, panel }: { readonly list: SubjectList; readonly panel: Panel }) {
  const project = useProject();
  const pages = project.pagesOf(panel.id).filter(({ subjectListId }) => subjectListId === list.id);
  const elements = pages.flatMap(({ id }) => project.elementsOn(id));
  const subjects = subjectsOf(project, list.id, new Set(elements.flatMap(tagsUsedBy)));
  if (!subjects || list.subjects.length < 2 || pages.length === 0) return null;
  const { tags, tagsWithout } = savingOf(elements, subjects);
  const isAlways = list.subjects.some(({ of, id }) => readsOf(project, of, id) !== 'shown');
  return (
    <div className="hairline flex flex-col gap-1 rounded-md p-3 text-sm" data-saving>
      <p>
        {counted(pages.length, 'page')} instead of {pages.length * list.subjects.length}; {counted(tags, 'tag')} on{' '}
        {pages.length === 1 ? 'it' : 'them'} instead of {tagsWithout}.
      </p>
      <p className="quiet text-xs">
        {isAlways
          ? 'All of them are read all the time. Set “Read” to “while shown” for their devices (Links) or groups (Map), and only those of the chosen one are.'
          : 'Only those of the chosen one are read.'}
      </p>
    </div>
  );
}

function readsOf(project: ProjectView, of: SubjectKind, id: string): 'always' | 'shown' {
  const ofDevice = (deviceId: string | null | undefined): 'always' | 'shown' => project.device(deviceId ?? '')?.reads ?? 'always';
  if (of === 'device') return ofDevice(id);
  if (of === 'group') return project.inheritedBy(id).reads ?? ofDevice(project.group(id)?.deviceId);
  return ofDevice(project.block(id)?.deviceId);
}

interface SubjectRowProps {
  readonly subject: Subject;
  /** Null for the pattern itself. */
  readonly pattern: Subject | null;
  readonly onPut: (part: (one: Subject) => Partial<Subject>, what: string) => Promise<unknown>;
  readonly onRemove: () => void;
}

function SubjectRow({ subject, pattern, onPut, onRemove }: SubjectRowProps) {
  const project = useProject();
  const [isOpen, setOpen] = useState(false);
  const own = membersOfSubject(project, subject);
  const theirs = pattern ? membersOfSubject(project, pattern) : null;
  const renamed = new Map(subject.renames.map(({ member, as }) => [member.toLowerCase(), as]));
  const counted = { find: subject.find, put: subject.put, renames: [] };
  const missing = [...(theirs?.byKey.values() ?? [])].filter(({ member }) => !own.byKey.has((ownMember(counted, member) ?? '').toLowerCase()));
  const open = missing.filter(({ member }) => !renamed.has(member.toLowerCase()));
  const say = (member: string, as: string | null | undefined): void =>
    void onPut(
      ({ renames }) => ({
        renames: [...renames.filter((one) => one.member.toLowerCase() !== member.toLowerCase()), ...(as === undefined ? [] : [{ member, as }])],
      }),
      `member ${member} said`,
    );
  return (
    <>
      <tr className="border-base-300 border-t">
        <td className="py-1 pr-3">
          <input
            key={subject.number}
            className="input input-sm num w-16"
            aria-label={`Number of ${subject.text || own.name || 'a subject'}`}
            {...keptField(String(subject.number), (text) => onPut(() => ({ number: Number(text) }), 'number'), true)}
          />
        </td>
        <td className="py-1 pr-3">
          <input
            key={subject.text}
            className="input input-sm w-48"
            aria-label={`Name of ${subject.number}`}
            placeholder={own.name ?? ''}
            maxLength={80}
            {...keptField(subject.text, (text) => onPut(() => ({ text }), 'name'))}
          />
        </td>
        <td className="py-1 pr-3">
          {own.name ?? <span className="is-bad">✕ gone</span>}
          {pattern ? (
            <span className="quiet num block text-[11px]">{subject.find === '' ? '' : `${subject.find} → ${subject.put}`}</span>
          ) : (
            <span className="quiet text-xs"> · the pattern</span>
          )}
        </td>
        <td className="num py-1 pr-3 text-xs">
          {theirs === null ? (
            own.byKey.size
          ) : (
            <>
              {theirs.byKey.size - missing.length} of {theirs.byKey.size}
              {missing.length > 0 ? (
                <button type="button" className="btn btn-xs btn-ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
                  {open.length > 0 ? <span className="is-look">◑ {open.length} to map</span> : `${missing.length} mapped`}
                </button>
              ) : null}
            </>
          )}
        </td>
        <td className="py-1 text-right">
          <button type="button" className="btn btn-xs btn-ghost btn-square" aria-label={`Take ${own.name ?? 'it'} away`} onClick={onRemove}>
            <X size={13} aria-hidden />
          </button>
        </td>
      </tr>
      {isOpen && missing.length > 0 ? (
        <tr>
          <td colSpan={5} className="pb-2 pl-20">
            <div className="grid max-h-56 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-3 gap-y-1 overflow-auto">
              {missing.map(({ member }) => {
                const as = renamed.get(member.toLowerCase());
                return (
                  <label key={member} className="contents text-xs">
                    <span className="num truncate py-1">{member}</span>
                    <select
                      className="select select-xs w-full"
                      aria-label={`${member} is called`}
                      value={as === undefined ? '' : as === null ? '-' : as}
                      onChange={(e) => say(member, e.target.value === '' ? undefined : e.target.value === '-' ? null : e.target.value)}
                    >
                      <option value="">not said: it is missing</option>
                      <option value="-">it has none</option>
                      {[...own.byKey.values()].map((one) => (
                        <option key={one.id} value={one.member}>
                          {one.member}
                        </option>
                      ))}
                    </select>
                  </label>
                );
              })}
            </div>
          </td>
        </tr>
      ) : null}
    </>
  );
}

interface AddSubjectsProps {
  readonly list: SubjectList;
  readonly onAdd: (more: readonly Subject[]) => void;
}

/** One more, or all that are like the pattern. */
function AddSubjects({ list, onAdd }: AddSubjectsProps) {
  const project = useProject();
  const [first] = list.subjects;
  const taken = new Set(list.subjects.map(({ of, id }) => `${of} ${id}`));
  const candidates = candidatesIn(project).filter(({ of, id }) => !taken.has(`${of} ${id}`));
  const like = first ? likeIt(project, first, candidates) : [];
  const numbered = (all: readonly Candidate[]): readonly Subject[] => {
    const start = Math.max(0, ...list.subjects.map(({ number }) => number)) + 1;
    return all.slice(0, MOST_SUBJECTS - list.subjects.length).map(({ of, id }, i) => ({
      of,
      id,
      number: start + i,
      text: '',
      ...((first && countsOn(project, first, { of, id })) ?? AS_IT_IS),
      renames: [],
    }));
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select
        className="select select-sm w-64"
        aria-label="Add a subject"
        value=""
        onChange={(e) => {
          const found = candidates.find(({ of, id }) => `${of} ${id}` === e.target.value);
          if (found) onAdd(numbered([found]));
        }}
      >
        <option value="">Add a device, structure or group …</option>
        {candidates.map(({ of, id, name }) => (
          <option key={`${of} ${id}`} value={`${of} ${id}`}>
            {name}
          </option>
        ))}
      </select>
      {like.length > 0 ? (
        <button type="button" className="btn btn-sm" onClick={() => onAdd(numbered(like))}>
          Add {counted(like.length, 'like one')}
        </button>
      ) : null}
    </div>
  );
}

interface Candidate {
  readonly of: SubjectKind;
  readonly id: string;
  readonly name: string;
}

function candidatesIn(project: ProjectView): readonly Candidate[] {
  const byName = (a: Candidate, b: Candidate): number => a.name.localeCompare(b.name, 'en', { numeric: true });
  return [
    ...project.devices.map(({ id, name }): Candidate => ({ of: 'device', id, name })).sort(byName),
    ...project.blocks
      .map(({ id, name, deviceId }): Candidate => ({ of: 'block', id, name: `${project.device(deviceId)?.name ?? ''}.${name}` }))
      .sort(byName),
    ...project.groups
      .filter(({ deviceId }) => deviceId !== null)
      .map(({ id, deviceId }): Candidate => ({ of: 'group', id, name: `${project.device(deviceId ?? '')?.name ?? ''}.${project.groupTextOf(id)}` }))
      .sort(byName),
  ];
}

/** Of the same kind, with most of its members. */
function likeIt(project: ProjectView, pattern: Subject, candidates: readonly Candidate[]): readonly Candidate[] {
  const wanted = [...membersOfSubject(project, pattern).byKey.keys()];
  const structure = pattern.of === 'block' ? project.block(pattern.id)?.structureId : undefined;
  return candidates.filter(({ of, id }) => {
    if (of !== pattern.of || wanted.length === 0) return false;
    if (of === 'block') return project.block(id)?.structureId === structure;
    return namesCountOn(wanted, new Set(membersOfSubject(project, { of, id }).byKey.keys())) !== null;
  });
}

const AS_IT_IS = { find: '', put: '' };

/** How the names of one count on from those of the pattern. */
function countsOn(project: ProjectView, pattern: Subject, other: Pick<Subject, 'of' | 'id'>): Pick<Subject, 'find' | 'put'> | null {
  return namesCountOn([...membersOfSubject(project, pattern).byKey.keys()], new Set(membersOfSubject(project, other).byKey.keys()));
}
