'use client';
/** Shared scales: what each is, which tags go by it, and what a change would make of their values. */
import { Plus } from 'lucide-react';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import type { SharedScale, Tag } from '@/core/project/entities.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { scalePhrase } from '@/core/scaling/scale.ts';
import { useChange, useProject, useStep } from '../live/LiveContext.tsx';
import { Empty, Field } from '../parts/Field.tsx';
import { GiveScale } from './GiveScale.tsx';
import { RuleFields } from './RuleFields.tsx';
import { ScaledTags } from './ScaledTags.tsx';
import { readRule, ruleForm, type RuleForm } from './scaleForm.ts';

export function SharedBench() {
  const project = useProject();
  const change = useChange();
  const router = useRouter();
  const wanted = useSearchParams().get('scale');
  const { sharedScales } = project;
  const shared = sharedScales.find(({ id }) => id === wanted) ?? sharedScales[0] ?? null;
  const choose = (id: string): void => router.replace(`/scale/shared?scale=${id}`);
  const make = async (): Promise<void> => {
    const id = uuid();
    const done = await change('shared scale made', [
      { kind: 'sharedScale', id, set: { name: freeName(sharedScales), scale: { kind: 'none' }, unit: '', decimals: null } },
    ]);
    if (done.ok) choose(id);
  };
  return (
    <div className="flex h-full flex-col gap-3">
      <div className="flex items-center gap-3">
        <h1 className="text-lg font-semibold">Shared scales</h1>
        <span className="quiet" role="status">
          {counted(sharedScales.length, 'scale')}
        </span>
        <button type="button" className="btn btn-sm btn-outline ml-auto" onClick={() => void make()}>
          <Plus size={14} aria-hidden /> Shared scale
        </button>
        <Link className="btn btn-sm btn-ghost" href="/scale">
          Scales of tags
        </Link>
      </div>
      {shared ? (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(15rem,0.8fr)_minmax(20rem,1fr)_minmax(24rem,1.4fr)] grid-rows-[minmax(0,1fr)] gap-3">
          <ul className="card-flat self-start max-h-full overflow-auto" aria-label="Shared scales">
            {sharedScales.map((each) => (
              <li key={each.id} className="border-base-300 border-b last:border-b-0">
                <button
                  type="button"
                  aria-current={each.id === shared.id}
                  data-shared={each.name}
                  className={`w-full px-3 py-2 text-left ${each.id === shared.id ? 'bg-base-200' : ''}`}
                  onClick={() => choose(each.id)}
                >
                  <span className="flex items-baseline gap-2">
                    <span className="truncate font-medium" title={each.name}>
                      {each.name}
                    </span>
                    <span className="quiet ml-auto text-xs whitespace-nowrap">{counted(project.tagsScaledBy(each.id).length, 'tag')}</span>
                  </span>
                  <span className="quiet block truncate text-xs">
                    {scalePhrase(each.scale)} {each.unit}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <Editing key={shared.id} shared={shared} />
        </div>
      ) : (
        <Empty title="No shared scale yet">
          <p>
            Forty inputs of one kind of card need one scale. Give it a name here, or press <em>Share this scale</em> at the scale of a tag; then all
            its tags follow each change of it.
          </p>
          <button type="button" className="btn btn-primary" onClick={() => void make()}>
            <Plus size={16} aria-hidden /> Make a shared scale
          </button>
        </Empty>
      )}
    </div>
  );
}

function freeName(taken: readonly SharedScale[]): string {
  for (let n = 1; ; n++) if (!taken.some(({ name }) => name === `Scale ${n}`)) return `Scale ${n}`;
}

interface SharedForm extends RuleForm {
  readonly name: string;
}

function Editing({ shared }: { readonly shared: SharedScale }) {
  const project = useProject();
  const change = useChange();
  const step = useStep();
  const storedForm = useMemo((): SharedForm => ({ ...ruleForm(shared.scale, shared), name: shared.name }), [shared]);
  const [draft, setDraft] = useState<SharedForm | null>(null);
  const [base, setBase] = useState(storedForm);
  if (base !== storedForm) {
    setBase(storedForm);
    setDraft(null);
  }
  const form = draft ?? storedForm;
  const read = useMemo(() => readRule(form), [form]);
  const tags = project.tagsScaledBy(shared.id);
  const after = useMemo((): SharedScale | null => (read.ok ? { ...shared, ...read.value } : null), [read, shared]);
  const isOther = after !== null && !sameJson(after, shared);
  const problem = form.name.trim() === '' ? { message: 'A shared scale needs a name.', place: 'name' } : !read.ok ? read.problem : null;
  const errorAt = (place: string): string | undefined => (problem?.place === place ? problem.message : undefined);
  const keep = async (): Promise<void> => {
    if (!read.ok || problem) return;
    const done = await change(`${shared.name} changed${isOther ? `, followed by ${counted(tags.length, 'tag')}` : ''}`, [
      { kind: 'sharedScale', id: shared.id, set: { ...read.value, name: form.name.trim() } },
    ]);
    if (done.ok) setDraft(null);
  };
  const remove = async (): Promise<void> => {
    const done = await change(`${shared.name} removed`, [{ kind: 'sharedScale', id: shared.id, set: null }]);
    if (done.ok)
      toast(`${shared.name} removed. ${tags.length > 0 ? 'Its tags keep the scale as their own.' : ''}`, {
        action: { label: 'Undo', onClick: () => void step('undo') },
      });
  };
  const take = (tag: Tag): void => void change(`${tag.name} has a scale of its own`, [{ kind: 'scale', id: tag.id, set: { sharedId: null } }]);
  return (
    <>
      <form
        aria-label="Shared scale"
        className="card-flat max-h-full self-start overflow-auto"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <div className="bg-base-100 border-base-300 sticky top-0 z-10 flex items-center gap-2 rounded-t-[inherit] border-b px-4 py-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => void remove()}>
            Remove
          </button>
          <button type="button" className="btn btn-sm btn-ghost ml-auto" disabled={draft === null} onClick={() => setDraft(null)}>
            Discard changes
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={draft === null || problem !== null}>
            {isOther && tags.length > 0 ? `Apply to ${counted(tags.length, 'tag')}` : 'Apply'}
          </button>
        </div>
        <div className="grid grid-cols-2 gap-x-3 gap-y-1 p-4 pt-2">
          <div className="col-span-2">
            <Field label="Name" error={errorAt('name')}>
              {(ids) => (
                <input
                  {...ids}
                  className="input input-sm w-full"
                  maxLength={80}
                  value={form.name}
                  onChange={(e) => setDraft({ ...form, name: e.target.value })}
                />
              )}
            </Field>
          </div>
          <RuleFields form={form} typeName="" errorAt={errorAt} onForm={(part) => setDraft({ ...form, ...part })} />
          {problem && !('place' in problem && problem.place) ? <p className="is-bad col-span-2">{problem.message}</p> : null}
        </div>
      </form>
      <div className="flex min-h-0 flex-col gap-3 overflow-auto">
        <ScaledTags before={shared} after={isOther ? after : null} tags={tags} onTake={take} />
        <GiveScale shared={shared} />
      </div>
    </>
  );
}
