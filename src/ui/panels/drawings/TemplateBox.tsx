'use client';
import { Fragment, useCallback, useState, type CSSProperties } from 'react';
import { worded } from '@/core/panel/elementText.ts';
import { textParts } from '@/core/panel/bound.ts';
import { loneTag, placeText } from '@/core/panel/placeValue.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { useStage } from '../SceneContext.tsx';
import { useMeasured } from '../useMeasured.ts';
import { useFormula, useTagViews, type Drawn } from '../useValues.ts';

/** The words for the value of the element's own tag. */
interface StateWords {
  readonly text: string;
  readonly drawn: Drawn;
}

interface TemplateBoxProps {
  readonly template: string;
  readonly state?: StateWords;
  /** Size of the text, and height of the box, in pixels of the panel. */
  readonly px: number;
  readonly h: number;
  readonly isCentred?: boolean;
  readonly style?: CSSProperties;
}

/** A text with values where it has braces. One that is longer than its box says so: a line that is missing could be a number's end. */
export function TemplateBox({ template, state, px, h, isCentred = false, style }: TemplateBoxProps) {
  const { say } = useStage().scene;
  const [written, setWritten] = useState<HTMLParagraphElement | null>(null);
  // A line that is lower than its leading is still there to be read.
  const isCut = useMeasured(
    written,
    useCallback((text) => (text.offsetHeight > h + px * 0.3 ? true : null), [h, px]),
  );
  return (
    <div className={`relative h-full w-full overflow-hidden ${isCentred ? 'flex flex-col justify-center' : ''}`}>
      <p ref={setWritten} className="leading-tight [overflow-wrap:anywhere] whitespace-pre-wrap" dir="auto" style={{ fontSize: px, ...style }}>
        <Template template={template} state={state} />
      </p>
      {isCut ? (
        <span className="is-bad bg-base-200 absolute right-0 bottom-0 px-1 text-[12px]" title={written?.innerText}>
          ✕ {say('more than fits')}
        </span>
      ) : null}
    </div>
  );
}

function Template({ template, state }: { readonly template: string; readonly state: StateWords | undefined }) {
  return textParts(template).map(({ text, by }, i) => (
    <Fragment key={i}>{by === null ? text : by === 'state' ? <Words state={state} /> : <Place expression={by} />}</Fragment>
  ));
}

function Words({ state }: { readonly state: StateWords | undefined }) {
  if (!state) return NO_VALUE_TEXT;
  const { text, drawn } = state;
  return (
    <span title={drawn.why}>
      {drawn.level === 'uncertain' ? '◑ ' : ''}
      {text}
    </span>
  );
}

function Place({ expression }: { readonly expression: string }) {
  const { scene, values } = useStage();
  const id = loneTag(expression) ?? undefined;
  const [view] = useTagViews(id === undefined ? [] : [id]);
  const came = useFormula(id === undefined ? expression : null, null);
  const unit = id === undefined ? came?.unit : scene.tag(id)?.def?.unit;
  const value = came?.value ?? null;
  const def = id === undefined ? null : scene.tag(id)?.def;
  const ofTag = (text: string | undefined): string | undefined => (def && text !== undefined ? worded(def, text, scene.word) : text);
  const text = id === undefined ? (value === null ? NO_VALUE_TEXT : placeText(value)) : (ofTag(view?.text) ?? NO_VALUE_TEXT);
  return (
    <span className="num" title={values === 'live' ? (view?.why ?? came?.why) : undefined}>
      {view?.level === 'uncertain' || came?.isDoubted ? '◑ ' : ''}
      {text}
      {unit && text !== NO_VALUE_TEXT ? ` ${unit}` : ''}
    </span>
  );
}
