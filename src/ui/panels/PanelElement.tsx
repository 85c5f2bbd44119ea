'use client';
/** One element on a page: its drawing, and what its conditions make of it. */
import { EyeOff } from 'lucide-react';
import { memo } from 'react';
import { ELEMENTS, actionsOf } from '@/core/panel/kinds.ts';
import { conditionsOf } from '@/core/panel/conditions.ts';
import { isWriting } from '@/core/panel/actions.ts';
import { tagsWritten } from '@/core/panel/uses.ts';
import type { Element } from '@/core/project/entities.ts';
import { Boundary } from '../parts/Boundary.tsx';
import { DRAWINGS } from './drawings/drawings.ts';
import { useStage } from './SceneContext.tsx';
import { useCondition, useDrawn } from './useValues.ts';

interface PanelElementProps {
  readonly element: Element;
  /** Where it stands otherwise than on its page, as on a phone: in pixels. */
  readonly w?: number;
  readonly h?: number;
}

export const PanelElement = memo(function PanelElement({ element, w = element.w, h = element.h }: PanelElementProps) {
  return (
    <Boundary name={element.label || ELEMENTS[element.kind].name} isSmall>
      {conditionsOf(element).length === 0 ? <Shown element={element} w={w} h={h} conditions={NONE} /> : <Conditioned element={element} w={w} h={h} />}
    </Boundary>
  );
});

type Sized = Required<PanelElementProps>;

/** What is not known does not show: an element that may have to be hidden is hidden, and one that may have to be disabled is. */
function Conditioned({ element, w, h }: Sized) {
  const { settings } = element;
  const visible = useCondition(settings.visible);
  const enabled = useCondition(settings.enabled);
  const blinking = useCondition(settings.blinking);
  const covered = useCondition(settings.covered);
  return <Shown element={element} w={w} h={h} conditions={{ visible, enabled, blinking, covered }} />;
}

type Conditions = Readonly<Record<keyof typeof WORDS, ReturnType<typeof useCondition>>>;
/** Most elements have none: then nothing is followed for them. */
const NONE: Conditions = { visible: null, enabled: null, blinking: null, covered: null };

function Shown({ element, w, h, conditions }: Sized & { readonly conditions: Conditions }) {
  const { isArranged, isPressable, scene } = useStage();
  const { kind } = element;
  const { visible, enabled, blinking, covered } = conditions;
  const drawn = useDrawn(element);
  const isHidden = visible !== null && visible.holds !== true;
  if (isHidden && !isArranged) return null;
  const isCovered = covered !== null && covered.holds !== false;
  const isOff = enabled !== null && enabled.holds !== true;
  const Draw = DRAWINGS[kind];
  const isWritable = tagsWritten(element).every((id) => scene.tag(id)?.canWrite === true);
  // A button that only leads to another page needs no tag.
  const needsTag = ELEMENTS[kind].isTouched && (kind !== 'button' || actionsOf(element).some(isWriting));
  const isEnabled = isPressable && !isOff && !isCovered && (!needsTag || (isWritable && tagsWritten(element).length > 0));
  return (
    <div
      className={`relative h-full w-full ${blinking?.holds ? 'blinks' : ''} ${isHidden ? 'opacity-35' : ''}`}
      data-kind={kind}
      data-label={element.label || drawn.tag?.name || ''}
      data-enabled={needsTag ? isEnabled : undefined}
    >
      <Draw element={element} drawn={drawn} w={w} h={h} isEnabled={isEnabled} />
      {blinking?.holds ? <span className="sr-only">blinking</span> : null}
      {isCovered ? (
        <div className="covered absolute inset-0 grid place-items-center rounded-md text-[13px] font-semibold" role="status">
          <span className="bg-base-100 rounded px-2">covered</span>
        </div>
      ) : null}
      {isArranged && conditions !== NONE ? <Reasons conditions={conditions} /> : null}
    </div>
  );
}

const WORDS = {
  visible: ['hidden', 'shown'],
  enabled: ['disabled', 'enabled'],
  blinking: ['not blinking', 'blinking'],
  covered: ['not covered', 'covered'],
} as const;

/** Why an element is seen as it is, told to who arranges the page. */
function Reasons({ conditions }: { readonly conditions: Conditions }) {
  const told = (Object.keys(WORDS) as (keyof typeof WORDS)[]).flatMap((name) => {
    const condition = conditions[name];
    if (condition === null) return [];
    const { holds, why } = condition;
    return holds === null ? `${WORDS[name][name === 'covered' ? 1 : 0]}: ${why}` : WORDS[name][holds ? 1 : 0];
  });
  return told.length === 0 ? null : (
    <span
      className="bg-base-100 text-secondary absolute top-0 right-0 flex items-center gap-1 rounded px-1 text-[11px]"
      title={told.join('; ')}
      data-reasons
    >
      <EyeOff size={11} aria-hidden /> {told[0]}
    </span>
  );
}
