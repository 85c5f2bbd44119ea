'use client';
import { elementText, shownOf } from '@/core/panel/elementText.ts';
import { shownOn, type ShownUnit } from '@/core/panel/shownOn.ts';
import type { SceneTag } from '@/core/panel/scene.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { fromJson } from '@/core/value/engineering.ts';
import type { TagView } from '../../live/liveClient.ts';
import { useStage } from '../SceneContext.tsx';

interface TableCellProps {
  readonly as: 'td' | 'dd';
  readonly tag: SceneTag | null;
  readonly view: TagView | null;
  readonly hasUnit: boolean;
  readonly units: readonly ShownUnit[];
}

const CELL = { kind: 'value', settings: {} } as const;

export function TableCell({ as: Cell, tag, view, hasUnit, units }: TableCellProps) {
  const def = tag?.def ?? null;
  const raw = view?.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
  const { word } = useStage().scene;
  const texts = { units, statesIn: () => null, word };
  const shown =
    view?.sample && def
      ? shownOf(CELL, def, { raw: raw?.ok && !isDecimal(raw.value) ? raw.value : null, text: view.text, level: view.level }, texts)
      : null;
  const unit = def ? shownOn(def, units, {}).unit : '';
  const tone = view?.level === 'bad' || !tag ? 'is-bad' : view?.level === 'uncertain' ? 'is-look' : '';
  return (
    <Cell
      className={`num px-2 text-right ${Cell === 'td' ? 'py-1 whitespace-nowrap' : '[overflow-wrap:anywhere]'} ${tone}`}
      title={tag ? `${tag.name}${view?.why ? `: ${view.why}` : ''}` : 'its tag is gone'}
    >
      {view?.level === 'uncertain' ? '◑ ' : ''}
      {elementText(CELL, shown, texts)}
      {hasUnit && unit !== '' && shown && shown.level !== 'bad' ? <span className="quiet"> {unit}</span> : null}
    </Cell>
  );
}
