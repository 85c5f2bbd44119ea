'use client';
/** What the members of a structure are, said once for all of its blocks. Every change is kept at once. */
import { X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { parseDataType } from '@/core/value/dataType.ts';
import { counted } from '@/core/counted.ts';
import type { Change } from '@/core/project/command.ts';
import { labelOf, type Structure, type StructureMember, type Tag } from '@/core/project/entities.ts';
import { memberAt, ownFields } from '@/core/project/structureTree.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
import { memberIn, structuresNamedIn } from './making.ts';
import { KeptText } from '../parts/KeptText.tsx';

const COLUMNS = 'grid grid-cols-[minmax(0,1.2fr)_6.5rem_4.5rem_4.5rem_7rem_8.5rem_minmax(0,1.6fr)_6.5rem] items-center gap-2';
const BLOCKS_SHOWN = 6;

export function StructureMembers({ structure }: { readonly structure: Structure }) {
  const project = useProject();
  const blocks = project.blocksOf(structure.id);
  const tags = tagsByMember(project, structure);
  const names = blocks.slice(0, BLOCKS_SHOWN).map(({ name }) => name);
  return (
    <>
      <p className="quiet mb-2 text-[13px]">
        {blocks.length === 0
          ? 'It stands inside other structures.'
          : `${counted(blocks.length, 'block')}: ${names.join(', ')}${blocks.length > BLOCKS_SHOWN ? ' …' : ''}`}
      </p>
      <div role="table" aria-label={`Members of ${structure.name}`} className="text-[13px]">
        <div role="row" className={`${COLUMNS} border-base-300 border-b pb-1 font-semibold`}>
          <span role="columnheader">Member</span>
          {[
            labelOf('tag', 'type'),
            labelOf('tag', 'unit'),
            labelOf('tag', 'decimals'),
            'Range',
            labelOf('tag', 'access'),
            labelOf('tag', 'comment'),
          ].map((label) => (
            <span role="columnheader" key={label}>
              {label}
            </span>
          ))}
          <span role="columnheader">Tags</span>
        </div>
        <div className="max-h-[50vh] overflow-y-auto">
          {structure.members.map((member) => (
            <MemberRow key={member.name} structure={structure} member={member} tags={tags.get(member) ?? NO_TAGS} />
          ))}
        </div>
        <NewMember structure={structure} />
      </div>
    </>
  );
}

/** One more member, behind the others: every block gets a tag for it where it lies. */
function NewMember({ structure }: { readonly structure: Structure }) {
  const project = useProject();
  const change = useChange();
  const [text, setText] = useState('');
  const [refused, setRefused] = useState('');
  const add = async (): Promise<void> => {
    const named = structuresNamedIn(project.structures.filter(({ deviceId }) => deviceId === structure.deviceId));
    const member = memberIn(text.trim(), named);
    if (!member.ok) {
      setRefused(`${member.problem.message} ${member.problem.remedy ?? ''}`);
      return;
    }
    const set = { members: [...structure.members, member.value] };
    const done = await change(
      `${structure.name}.${member.value.name} added`,
      [{ kind: 'structure', id: structure.id, set, was: { members: structure.members } }],
      {
        quiet: true,
      },
    );
    if (done.ok) setText('');
    else setRefused(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  return (
    <form
      className="flex items-center gap-2 pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <input
        aria-label="New member"
        className="input input-sm num w-72"
        placeholder="name type unit, such as gap_max UINT mm"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setRefused('');
        }}
      />
      <button type="submit" className="btn btn-sm btn-outline" disabled={text.trim() === ''}>
        Add member
      </button>
      <span className="is-bad flex-1 text-xs" role="alert">
        {refused}
      </span>
    </form>
  );
}

const NO_TAGS: readonly Tag[] = [];

function MemberRow({ structure, member, tags }: { readonly structure: Structure; readonly member: StructureMember; readonly tags: readonly Tag[] }) {
  const change = useChange();
  const array = member.length === null ? '' : `[${member.length}]`;
  const name = `${structure.name}.${member.name}`;
  const set = (what: string, fields: Partial<StructureMember>) =>
    change(`${what} of ${name} changed`, [
      {
        kind: 'structure',
        id: structure.id,
        set: { members: structure.members.map((m) => (m === member ? { ...m, ...fields } : m)) },
        was: { members: structure.members },
      },
    ]);
  if (member.of !== '')
    return (
      <div role="row" className={`${COLUMNS} border-base-300 border-b py-1`} data-member={member.name}>
        <span role="cell" className="truncate font-medium">
          {member.name}
          {array}
        </span>
        <span role="cell" className="num">
          {member.of}
        </span>
        <span role="cell" className="quiet col-span-6">
          a structure itself
        </span>
      </div>
    );
  const setDecimals = (text: string): unknown => {
    const decimals = text === '' ? null : Number(text);
    if (decimals === null || Number.isInteger(decimals)) return set('decimals', { decimals });
    return toast.error('Decimals are a whole number.');
  };
  const setRange = (text: string): unknown => {
    const range = rangeIn(text);
    if (range) return set('the range', range);
    return toast.error('That is no range.', { description: 'Write it as 0 to 30, or leave it empty.' });
  };
  const type = parseDataType(member.type);
  const isNumber = type.ok && (type.value.kind === 'integer' || type.value.kind === 'real');
  const own = tags.filter((tag) => ownFields(tag, member).length > 0);
  const follow = (): void =>
    void change(
      `${counted(own.length, 'tag')} follow ${name} again`,
      own.map((tag) => followingAgain(tag, member)),
    );
  return (
    <div role="row" className={`${COLUMNS} border-base-300 border-b py-1`} data-member={member.name}>
      <span role="cell" className="truncate font-medium" title={member.name}>
        {member.name}
        {array}
      </span>
      <span role="cell" className="num truncate">
        {member.type}
      </span>
      <KeptText label={`Unit of ${member.name}`} value={member.unit} onKeep={(unit) => set('the unit', { unit })} />
      {isNumber ? (
        <>
          <KeptText label={`Decimals of ${member.name}`} value={member.decimals === null ? '' : String(member.decimals)} onKeep={setDecimals} mono />
          <KeptText label={`Range of ${member.name}`} value={rangeText(member)} placeholder="any" onKeep={setRange} mono />
        </>
      ) : (
        <span role="cell" className="col-span-2" />
      )}
      <span role="cell">
        <select
          aria-label={`Access of ${member.name}`}
          className="select select-xs w-full"
          value={member.access ?? ''}
          onChange={(e) => void set('access', { access: e.target.value === '' ? null : (e.target.value as 'read' | 'readWrite') })}
        >
          <option value="">as its group</option>
          <option value="read">R, read only</option>
          <option value="readWrite">RW, read and write</option>
        </select>
      </span>
      <KeptText label={`Comment of ${member.name}`} value={member.comment} onKeep={(comment) => set('the comment', { comment })} />
      <span role="cell" className="flex items-center gap-2">
        <span className="num">{tags.length}</span>
        <RemoveMember structure={structure} member={member} />
        {own.length > 0 ? (
          <button
            type="button"
            className="btn btn-xs btn-outline"
            title={`${counted(own.length, 'tag')} with something of their own: ${own
              .slice(0, 4)
              .map((tag) => `${tag.name} (${ownFields(tag, member).join(', ')})`)
              .join('; ')}. Press to have them follow again.`}
            aria-label={`Have ${own.length} follow ${member.name} again`}
            onClick={follow}
          >
            {own.length} own
          </button>
        ) : null}
      </span>
    </div>
  );
}

/** Its tags stay, and stand for themselves. */
function RemoveMember({ structure, member }: { readonly structure: Structure; readonly member: StructureMember }) {
  const change = useChange();
  return (
    <button
      type="button"
      className="btn btn-xs btn-ghost btn-square"
      aria-label={`Remove ${member.name}`}
      title="Take it out of the structure: its tags stay, and what lies behind it in memory moves up"
      onClick={() =>
        void change(`${structure.name}.${member.name} removed`, [
          {
            kind: 'structure',
            id: structure.id,
            set: { members: structure.members.filter((m) => m !== member) },
            was: { members: structure.members },
          },
        ])
      }
    >
      <X size={13} aria-hidden />
    </button>
  );
}

function rangeText({ rangeLow, rangeHigh }: StructureMember): string {
  return rangeLow === null || rangeHigh === null ? '' : `${rangeLow} to ${rangeHigh}`;
}

/** Null for what is no range; none for an empty text. */
function rangeIn(text: string): Pick<StructureMember, 'rangeLow' | 'rangeHigh'> | null {
  if (text === '') return { rangeLow: null, rangeHigh: null };
  const [, low, high] = /^(-?\d+(?:\.\d+)?)\s*(?:to|…|\.\.)\s*(-?\d+(?:\.\d+)?)$/.exec(text) ?? [];
  return low === undefined || high === undefined ? null : { rangeLow: Number(low), rangeHigh: Number(high) };
}

function followingAgain(tag: Tag, member: StructureMember): Change {
  const { type, unit, decimals, rangeLow, rangeHigh, comment, names, access } = member;
  return { kind: 'tag', id: tag.id, set: { type, unit, decimals, rangeLow, rangeHigh, comment, names, access } };
}

/** The tags of all blocks by the member of a structure that they are, in whatever structure it stands. */
function tagsByMember(project: ProjectView, structure: Structure): ReadonlyMap<StructureMember, readonly Tag[]> {
  const named = new Map(project.structures.filter((s) => s.deviceId === structure.deviceId).map((s) => [s.name.toLowerCase(), s]));
  const own = new Set(structure.members);
  const found = new Map<StructureMember, Tag[]>();
  for (const { id, blockId, path } of project.allMembers()) {
    const block = project.entity('block', blockId);
    const outer = block && project.entity('structure', block.structureId);
    const member = outer?.deviceId === structure.deviceId ? memberAt(outer, path, (name) => named.get(name.toLowerCase()) ?? null) : null;
    const tag = project.tag(id);
    if (member && tag && own.has(member)) found.set(member, [...(found.get(member) ?? []), tag]);
  }
  return found;
}
