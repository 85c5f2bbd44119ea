'use client';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { Fragment } from 'react';
import { textParts } from '@/core/panel/bound.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { idsIn } from '@/core/expression/references.ts';
import { formatValue } from '@/core/value/engineering.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { useStage } from '../SceneContext.tsx';
import { useFormula, useTagViews } from '../useValues.ts';
import { colourOf, TEXT_ALIGN, type DrawingProps } from './drawing.ts';

export function TextDrawing({ element }: DrawingProps) {
  const { template, size, align, tone } = settingsOf('text', element);
  return (
    <p
      className="h-full w-full overflow-hidden leading-tight whitespace-pre-wrap"
      dir="auto"
      style={{
        fontSize: TEXT_PX[size],
        textAlign: TEXT_ALIGN[align],
        color: colourOf(tone),
        fontWeight: size === 'large' || size === 'huge' ? 600 : 400,
      }}
    >
      <Template template={template || element.label} />
    </p>
  );
}

/** A text with values where it has braces. */
export function Template({ template }: { readonly template: string }) {
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
