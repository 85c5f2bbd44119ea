'use client';
/** The tags of a shared scale with their values of now, and as a change would show them. */
import { X } from 'lucide-react';
import { counted } from '@/core/counted.ts';
import type { SharedScale, Tag } from '@/core/project/entities.ts';
import { textsOf } from '@/core/scaling/scale.ts';
import { engineeringOf, rawText, textOf, type SignalDefinition } from '@/core/signal.ts';
import { asNumber, fromJson } from '@/core/value/engineering.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useTagView } from '../live/liveHooks.ts';
import { selectTag } from '../live/selection.ts';
import { QualityMark } from '../parts/StateMark.tsx';

const SHOWN = 100;

interface ScaledTagsProps {
  readonly before: SharedScale;
  /** What it would be; null while nothing of it is changed. */
  readonly after: SharedScale | null;
  readonly tags: readonly Tag[];
  /** A scale of its own for one of them. */
  readonly onTake: (tag: Tag) => void;
}

export function ScaledTags({ before, after, tags, onTake }: ScaledTagsProps) {
  const inOrder = [...tags].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true })).slice(0, SHOWN);
  return (
    <section aria-label="Its tags" className="card-flat p-4">
      <h2 className="mb-1 font-semibold">
        {tags.length === 0
          ? 'No tag goes by it yet'
          : after
            ? `${counted(tags.length, 'tag')} would follow`
            : `${counted(tags.length, 'tag')} ${tags.length === 1 ? 'goes' : 'go'} by it`}
      </h2>
      {tags.length === 0 ? <p className="quiet">Give it to tags below, or write its name into the column Scale of the map.</p> : null}
      {tags.length > 0 ? (
        <table className="table-xs w-full">
          <thead>
            <tr className="text-left text-xs">
              <th scope="col">Tag</th>
              <th scope="col" className="text-right">
                Raw
              </th>
              <th scope="col" className="text-right">
                Now
              </th>
              <th scope="col" className="text-right">
                {after ? 'Then' : ''}
              </th>
              <th aria-label="Take away" />
            </tr>
          </thead>
          <tbody>
            {inOrder.map((tag) => (
              <Row key={tag.id} tag={tag} before={before} after={after} onTake={() => onTake(tag)} />
            ))}
          </tbody>
        </table>
      ) : null}
      {tags.length > SHOWN ? <p className="quiet mt-1">and {tags.length - SHOWN} more</p> : null}
    </section>
  );
}

interface RowProps {
  readonly tag: Tag;
  readonly before: SharedScale;
  readonly after: SharedScale | null;
  readonly onTake: () => void;
}

function Row({ tag, before, after, onTake }: RowProps) {
  const project = useProject();
  const view = useTagView(tag.id);
  const effective = project.effective(tag.id);
  const raw = view?.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
  const value = raw?.ok && !isDecimal(raw.value) ? raw.value : null;
  const then = after && effective.ok ? definitionAfter(effective.value.def, before, after) : null;
  return (
    <tr data-scaled={tag.name}>
      <td className="max-w-40 truncate">
        <button type="button" className="hover:underline" title={tag.comment || tag.name} onClick={() => selectTag(tag.id)}>
          {tag.name}
        </button>
      </td>
      <td className="num quiet text-right">{value === null || !effective.ok ? '–' : rawText(effective.value.def.type, value)}</td>
      <td className="num text-right whitespace-nowrap" data-now>
        {view && view.level !== 'good' ? <QualityMark level={view.level} reason={view.reason} why={view.why} quietWhenGood /> : null}{' '}
        {view?.text ?? '–'} {view?.level === 'bad' ? '' : tag.unit}
      </td>
      <td className="num text-right font-semibold whitespace-nowrap" data-then>
        {then && value !== null ? shownAs(then, value) : ''}
      </td>
      <td className="w-6 text-right">
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          title={`${tag.name} keeps it as its own`}
          aria-label={`A scale of its own for ${tag.name}`}
          onClick={onTake}
        >
          <X size={13} aria-hidden />
        </button>
      </td>
    </tr>
  );
}

/** As the model carries a change to the tags: unit and decimals follow where they were those of the scale. */
function definitionAfter(def: SignalDefinition, before: SharedScale, after: SharedScale): SignalDefinition {
  const texts = textsOf(after.scale);
  const names = def.names && textsOf(before.scale).length === 0 ? def.names : texts.length > 0 ? texts : undefined;
  return {
    ...def,
    scale: after.scale,
    unit: def.unit === before.unit ? after.unit : def.unit,
    decimals: def.decimals === before.decimals ? after.decimals : def.decimals,
    names,
  };
}

function shownAs(def: SignalDefinition, raw: number | bigint | boolean | string): string {
  const value = engineeringOf(def, raw);
  const number = asNumber(value);
  return number !== null && !Number.isFinite(number) ? 'no value' : `${textOf(def, value)} ${def.unit}`;
}
