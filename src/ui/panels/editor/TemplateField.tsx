'use client';
/** A text with values where it has braces; shown with the names of tags, kept with their ids. */
import { useState } from 'react';
import { isNamedPlace, textParts, walked } from '@/core/panel/bound.ts';
import { readingOf, storedExpression } from '../../expression/reading.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { expressionPath } from '../../expression/reading.ts';
import { boundText } from './BoundField.tsx';

interface TemplateFieldProps {
  readonly label: string;
  readonly help?: string | undefined;
  readonly template: string;
  readonly onKeep: (template: string) => void;
}

const changedIn = (template: string, change: (expression: string) => string): string =>
  (walked({ template }, change) as { template: string }).template;

export function TemplateField({ label, help, template, onKeep }: TemplateFieldProps) {
  const project = useProject();
  const shown = changedIn(template, (by) => boundText(project, { by }));
  const [text, setText] = useState<string | null>(null);
  const wrong = textParts(text ?? shown).flatMap(({ by }) => {
    const reading = by === null || isNamedPlace(by) ? null : readingOf(project, by);
    return reading && !reading.ok ? reading.problem.message : [];
  })[0];
  const keep = (typed: string): void => {
    setText(null);
    if (wrong === undefined && typed !== shown) onKeep(changedIn(typed, (by) => storedExpression(project, by) ?? by));
  };
  return (
    <div className="flex flex-col gap-1">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        {label}
        <textarea
          className={`textarea textarea-sm w-full ${wrong ? 'textarea-error' : ''}`}
          rows={2}
          maxLength={2000}
          value={text ?? shown}
          onChange={(e) => setText(e.target.value)}
          onBlur={() => text !== null && keep(text)}
          onKeyDown={(e) => {
            if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) keep(text ?? shown);
            if (e.key === 'Escape') setText(null);
          }}
        />
      </label>
      {wrong ? (
        <p className="is-bad text-xs" role="alert">
          {wrong}
        </p>
      ) : (
        <p className="quiet text-xs">{help}</p>
      )}
      <TagPicker
        value={null}
        label="Put a value into the text"
        onPick={(tag) => onKeep(changedIn(`${text ?? shown}{${expressionPath(project, tag)}}`, (by) => storedExpression(project, by) ?? by))}
      />
    </div>
  );
}
