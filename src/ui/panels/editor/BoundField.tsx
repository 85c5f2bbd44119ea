'use client';
/** A field for an expression, or for a number that may be one: typed with the names of tags, kept with their ids. */
import { PencilLine } from 'lucide-react';
import { useState } from 'react';
import { isBound, type Bound, type Live } from '@/core/panel/bound.ts';
import { withPaths } from '@/core/expression/references.ts';
import { ExpressionEditor } from '../../expression/ExpressionEditor.tsx';
import { FunctionHelp } from '../../expression/FunctionHelp.tsx';
import { Preview } from '../../expression/Preview.tsx';
import { expressionPath, readingOf, storedExpression } from '../../expression/reading.ts';
import { useProject } from '../../live/LiveContext.tsx';
import type { ProjectView } from '../../live/project.ts';
import { Dialog } from '../../parts/Dialog.tsx';

interface BoundFieldProps {
  readonly label: string;
  readonly help?: string | undefined;
  readonly value: Live<number> | Bound | null;
  /** A plain number is taken too. */
  readonly takesNumber: boolean;
  readonly wanted: 'boolean' | 'number' | null;
  readonly onKeep: (value: number | Bound | null) => void;
}

/** As it is typed: with the names that the tags have now. */
export function boundText(project: ProjectView, value: Live<number> | Bound | null): string {
  if (value === null) return '';
  if (!isBound(value)) return String(value);
  return withPaths(value.by, (id) => {
    const tag = project.tag(id);
    return tag && expressionPath(project, tag);
  });
}

export function BoundField({ label, help, value, takesNumber, wanted, onKeep }: BoundFieldProps) {
  const project = useProject();
  const shown = boundText(project, value);
  const [text, setText] = useState<string | null>(null);
  const [isOpen, setOpen] = useState(false);
  const problem = text === null ? null : problemOf(project, text, takesNumber, wanted);
  const keep = (typed: string): boolean => {
    const plain = typed.trim();
    if (plain === shown) {
      setText(null);
      return true;
    }
    if (problemOf(project, plain, takesNumber, wanted) !== null) return false;
    const stored = takesNumber && isNumber(plain) ? null : storedExpression(project, plain);
    onKeep(plain === '' ? null : takesNumber && isNumber(plain) ? Number(plain) : { by: stored ?? plain });
    setText(null);
    return true;
  };
  return (
    <div className="flex flex-col gap-0.5">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        {label}
        <span className="flex gap-1">
          <input
            className={`input input-sm num w-full min-w-0 ${problem ? 'input-error' : ''}`}
            value={text ?? shown}
            placeholder={takesNumber ? 'number or expression' : wanted === 'boolean' ? 'bed_temp > 90' : 'expression'}
            title={help}
            onChange={(e) => setText(e.target.value)}
            onBlur={() => text !== null && keep(text)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') keep(text ?? shown);
              if (e.key === 'Escape') setText(null);
            }}
          />
          <button
            type="button"
            className="btn btn-sm btn-ghost btn-square"
            aria-label={`${label}: write it in the editor`}
            onClick={() => setOpen(true)}
          >
            <PencilLine size={14} aria-hidden />
          </button>
        </span>
      </label>
      {problem ? (
        <p className="is-bad text-xs" role="alert">
          {problem}
        </p>
      ) : null}
      {isOpen ? (
        <Dialog title={label} onClose={() => setOpen(false)} wide>
          {help ? <p className="quiet mb-2 text-sm">{help}</p> : null}
          <ExpressionEditor
            label={label}
            text={text ?? shown}
            example={wanted === 'boolean' ? 'bed_temp > 90' : 'bed_temp + 10'}
            onText={setText}
            focus
          />
          <div className="mt-2 min-h-9">
            <Preview text={text ?? shown} />
            {problem ? <p className="is-bad text-xs">{problem}</p> : null}
          </div>
          <FunctionHelp />
          <div className="mt-4 flex justify-end gap-2">
            <button
              type="button"
              className="btn btn-sm btn-ghost"
              onClick={() => {
                setText(null);
                setOpen(false);
              }}
            >
              Cancel
            </button>
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={problem !== null}
              onClick={() => keep(text ?? shown) && setOpen(false)}
            >
              Keep
            </button>
          </div>
        </Dialog>
      ) : null}
    </div>
  );
}

const isNumber = (text: string): boolean => text !== '' && Number.isFinite(Number(text));

const WANTED = { boolean: 'on or off: compare it with something, such as level > 80', number: 'a number' } as const;

function problemOf(project: ProjectView, text: string, takesNumber: boolean, wanted: BoundFieldProps['wanted']): string | null {
  if (text.trim() === '' || (takesNumber && isNumber(text.trim()))) return null;
  const reading = readingOf(project, text);
  if (!reading.ok) return `${reading.problem.message} ${reading.problem.remedy ?? ''}`.trim();
  const { kind } = reading.checked;
  return wanted !== null && kind !== null && kind !== wanted ? `It has to give ${WANTED[wanted]}.` : null;
}
