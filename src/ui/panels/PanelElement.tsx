'use client';
/** One element on a page: its drawing, and what its conditions make of it. */
import { EyeOff, Lock } from 'lucide-react';
import { memo, type CSSProperties, type ReactNode } from 'react';
import { ELEMENTS, actionsOf } from '@/core/panel/kinds.ts';
import { isHiddenBelow, levelOf } from '@/core/panel/levels.ts';
import { conditionsOf } from '@/core/panel/conditions.ts';
import { isWriting } from '@/core/panel/actions.ts';
import { tagsWritten } from '@/core/panel/uses.ts';
import type { Element } from '@/core/project/entities.ts';
import { Boundary } from '../parts/Boundary.tsx';
import { DRAWINGS } from './drawings/drawings.ts';
import { useStage, type Stage } from './SceneContext.tsx';
import { useCondition, useExpressionDrawn, useTagDrawn, valueExpression, type Drawn } from './useValues.ts';

interface PanelElementProps {
  readonly element: Element;
  /** It stands at its own place on the page; else it fills what it is put into. */
  readonly isPlaced?: boolean;
  /** Where it has another size than on its page, as on a phone: in pixels. */
  readonly w?: number;
  readonly h?: number;
}

export const PanelElement = memo(function PanelElement({ element, isPlaced = false, w = element.w, h = element.h }: PanelElementProps) {
  const props = { element, isPlaced, w, h };
  const Shown = SHOWN[by(element)];
  return (
    <Boundary name={element.label || ELEMENTS[element.kind].name} small={isPlaced ? { className: 'absolute', style: placeOf(element) } : FILLING}>
      {conditionsOf(element).length === 0 ? <Shown {...props} conditions={NONE} /> : <Conditioned {...props} />}
    </Boundary>
  );
});

const FILLING = { className: 'h-full w-full', style: {} };

type Placed = Required<PanelElementProps>;

/** What is not known does not show: an element that may have to be hidden is hidden, and one that may have to be disabled is. */
function Conditioned(props: Placed) {
  const Shown = SHOWN[by(props.element)];
  const { settings } = props.element;
  const visible = useCondition(settings.visible);
  const enabled = useCondition(settings.enabled);
  const blinking = useCondition(settings.blinking);
  const covered = useCondition(settings.covered);
  return <Shown {...props} conditions={{ visible, enabled, blinking, covered }} />;
}

type Conditions = Readonly<Record<keyof typeof WORDS, ReturnType<typeof useCondition>>>;
/** Most elements have none: then nothing is followed for them. */
const NONE: Conditions = { visible: null, enabled: null, blinking: null, covered: null };

interface ShownProps extends Placed {
  readonly conditions: Conditions;
}

function OfTag(props: ShownProps) {
  return box(props, useStage(), useTagDrawn(props.element));
}
function OfExpression(props: ShownProps) {
  return box(props, useStage(), useExpressionDrawn(props.element));
}

/** Neither follows what only the other needs. */
const SHOWN = { tag: OfTag, expression: OfExpression };
const by = (element: Element): keyof typeof SHOWN => (valueExpression(element) === null ? 'tag' : 'expression');

function box({ element, isPlaced, w, h, conditions }: ShownProps, { isArranged, isPressable, scene, signing }: Stage, drawn: Drawn): ReactNode {
  const { kind } = element;
  const { visible, enabled, blinking, covered } = conditions;
  const isHidden = visible !== null && visible.holds !== true;
  if (isHidden && !isArranged) return null;
  const level = levelOf(element);
  const isBarred = level > (signing.who?.level ?? 0);
  if (isBarred && isHiddenBelow(element) && !isArranged) return null;
  const isCovered = covered !== null && covered.holds !== false;
  const isOff = enabled !== null && enabled.holds !== true;
  const Draw = DRAWINGS[kind];
  const isWritable = tagsWritten(element).every((id) => scene.tag(id)?.canWrite === true);
  // A button that only leads to another page needs no tag.
  const needsTag = ELEMENTS[kind].isTouched && ELEMENTS[kind].takes !== 'none' && (kind !== 'button' || actionsOf(element).some(isWriting));
  const isEnabled = isPressable && !isBarred && !isOff && !isCovered && (!needsTag || (isWritable && tagsWritten(element).length > 0));
  return (
    <div
      className={`${isPlaced ? 'element-box absolute' : 'relative h-full w-full'} ${blinking?.holds ? 'blinks' : ''} ${isHidden ? 'opacity-35' : ''} ${isArranged ? 'pointer-events-none' : ''}`}
      style={isPlaced ? placeOf(element) : undefined}
      inert={isArranged}
      data-kind={kind}
      data-label={element.label || drawn.tag?.name || ''}
      data-enabled={needsTag ? isEnabled : undefined}
    >
      <Draw element={element} drawn={drawn} w={w} h={h} isEnabled={isEnabled} />
      {blinking?.holds ? <span className="sr-only">blinking</span> : null}
      {isCovered ? (
        <div className="covered absolute inset-0 grid place-items-center rounded-md text-[13px] font-semibold" role="status">
          <span className="bg-base-100 rounded px-2">{scene.say('covered')}</span>
        </div>
      ) : null}
      {isBarred && isPressable && ELEMENTS[kind].isTouched && kind !== 'alarms' && kind !== 'alarmBar' ? (
        <button
          type="button"
          className="absolute inset-0 flex cursor-pointer items-start justify-end rounded-md p-1"
          aria-label={`${element.label || (drawn.tag?.name ?? ELEMENTS[kind].name)}: ${scene.say('This needs level {1}.', String(level))}`}
          onClick={() => signing.ask(level)}
        >
          <Lock size={14} aria-hidden className="bg-base-100 text-secondary rounded" />
        </button>
      ) : null}
      {isArranged && level > 0 ? (
        <span className="bg-base-100 text-secondary absolute right-0 bottom-0 flex items-center gap-1 rounded px-1 text-[11px]">
          <Lock size={11} aria-hidden /> level {level}
        </span>
      ) : null}
      {isArranged && conditions !== NONE ? <Reasons conditions={conditions} /> : null}
    </div>
  );
}

function placeOf({ x, y, w, h, kind }: Element): CSSProperties {
  // A frame and a shape lie around others, which are pressed through them.
  const isBehind = kind === 'frame' || kind === 'shape' || kind === 'line' || kind === 'pipe';
  return { left: x, top: y, width: w, height: h, ...(isBehind ? { pointerEvents: 'none' } : {}) };
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
