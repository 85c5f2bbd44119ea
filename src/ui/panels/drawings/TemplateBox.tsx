'use client';
import { Fragment, useCallback, useState, type CSSProperties } from 'react';
import { textParts } from '@/core/panel/bound.ts';
import { idsIn } from '@/core/expression/references.ts';
import { formatValue } from '@/core/value/engineering.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { useStage } from '../SceneContext.tsx';
import { useMeasured } from '../useMeasured.ts';
import { useFormula, useTagViews } from '../useValues.ts';

interface TemplateBoxProps {
  readonly template: string;
  /** Size of the text, and height of the box, in pixels of the panel. */
  readonly px: number;
  readonly h: number;
  readonly isCentred?: boolean;
  readonly style?: CSSProperties;
}

/** A text with values where it has braces. One that is longer than its box says so: a line that is missing could be a number's end. */
export function TemplateBox({ template, px, h, isCentred = false, style }: TemplateBoxProps) {
  const [written, setWritten] = useState<HTMLParagraphElement | null>(null);
  // A line that is lower than its leading is still there to be read.
  const isCut = useMeasured(
    written,
    useCallback((text) => (text.offsetHeight > h + px * 0.3 ? true : null), [h, px]),
  );
  return (
    <div className={`relative h-full w-full overflow-hidden ${isCentred ? 'flex flex-col justify-center' : ''}`}>
      <p ref={setWritten} className="leading-tight [overflow-wrap:anywhere] whitespace-pre-wrap" dir="auto" style={{ fontSize: px, ...style }}>
        <Template template={template} />
      </p>
      {isCut ? (
        <span className="is-bad bg-base-200 absolute right-0 bottom-0 px-1 text-[12px]" title={written?.innerText}>
          ✕ more than fits
        </span>
      ) : null}
    </div>
  );
}

function Template({ template }: { readonly template: string }) {
  return textParts(template).map(({ text, by }, i) => <Fragment key={i}>{by === null ? text : <Place expression={by} />}</Fragment>);
}

const ONE_TAG = /^\s*@[0-9a-f-]{36}\s*$/i;

/** A tag alone is written as it shows itself, with its decimals and unit; anything else as it comes. */
function Place({ expression }: { readonly expression: string }) {
  const { scene, values } = useStage();
  const [id] = ONE_TAG.test(expression) ? idsIn(expression) : [];
  const [view] = useTagViews(id === undefined ? [] : [id]);
  const came = useFormula(id === undefined ? expression : null, null);
  const unit = id === undefined ? came?.unit : scene.tag(id)?.def?.unit;
  const value = came?.value ?? null;
  const text =
    id === undefined
      ? value === null
        ? NO_VALUE_TEXT
        : formatValue(value, typeof value === 'number' ? decimalsFor(value) : null)
      : (view?.text ?? NO_VALUE_TEXT);
  return (
    <span className="num" title={values === 'live' ? (view?.why ?? came?.why) : undefined}>
      {view?.level === 'uncertain' || came?.isDoubted ? '◑ ' : ''}
      {text}
      {unit && text !== NO_VALUE_TEXT ? ` ${unit}` : ''}
    </span>
  );
}

/** What an expression comes to has no decimals of its own. */
function decimalsFor(value: number): number | null {
  return Number.isInteger(value) ? null : 2;
}
