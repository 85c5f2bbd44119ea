'use client';
/** The expression of one calculated tag. */
import { useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { ExpressionEditor } from './ExpressionEditor.tsx';
import { FunctionHelp } from './FunctionHelp.tsx';
import { Preview } from './Preview.tsx';
import { expressionText, readingOf, storedExpression } from './reading.ts';

export function ExpressionDialog({ tag, onClose }: { readonly tag: Tag; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [text, setText] = useState(() => expressionText(project, tag));
  const [problem, setProblem] = useState<string | null>(null);
  const keep = async (): Promise<void> => {
    const expression = storedExpression(project, text);
    if (expression === null) return;
    const set = { source: { kind: 'calculated' as const, expression } };
    const done = await change(`expression of ${tag.name} changed`, [{ kind: 'tag', id: tag.id, set }], { quiet: true });
    if (done.ok) onClose();
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  return (
    <Dialog title={`Expression of ${tag.name}`} onClose={onClose} wide>
      <ExpressionEditor label={`Expression of ${tag.name}`} text={text} onText={setText} onDone={() => void keep()} focus />
      <div className="mt-2 min-h-9">
        <Preview text={text} />
        {problem === null ? null : (
          <p className="is-bad text-xs" role="alert">
            {problem}
          </p>
        )}
      </div>
      <FunctionHelp />
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Cancel
        </button>
        <button type="button" className="btn btn-sm btn-primary" disabled={!readingOf(project, text).ok} onClick={() => void keep()}>
          Keep
        </button>
      </div>
    </Dialog>
  );
}
