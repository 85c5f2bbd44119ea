'use client';
/** The expression of one tag: of a calculated value, or of the index that moves an address. */
import { useCallback, useState } from 'react';
import type { Value } from '@/core/expression/tree.ts';
import type { Tag } from '@/core/project/entities.ts';
import { pointIn, withExpression, withIndex } from '@/core/project/tagSource.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { movedSignal } from '@/mapping/movedSignal.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
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
  const isIndex = pointIn(tag) !== null;
  const leads = useCallback((value: Value) => placeInWords(project, tag, value), [project, tag]);
  const title = `${isIndex ? 'Index' : 'Expression'} of ${tag.name}`;
  const isEmpty = text.trim() === '';
  const canKeep = (isIndex && isEmpty) || readingOf(project, text).ok;
  const keep = async (): Promise<void> => {
    const expression = isEmpty ? '' : storedExpression(project, text);
    if (expression === null || !canKeep) return;
    const { source } = isIndex ? withIndex(tag, expression) : withExpression(tag, expression);
    const label = `${isIndex ? 'index' : 'expression'} of ${tag.name} changed`;
    const done = await change(label, [{ kind: 'tag', id: tag.id, set: { source } }], { quiet: true });
    if (done.ok) onClose();
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  return (
    <Dialog title={title} onClose={onClose} wide>
      {isIndex ? <p className="mb-2 text-sm">{indexInWords(project, tag)}</p> : null}
      <ExpressionEditor
        label={title}
        text={text}
        {...(isIndex ? { example: '(stand_no - 1) * 100' } : {})}
        onText={setText}
        onDone={() => void keep()}
        focus
      />
      <div className="mt-2 min-h-9">
        <Preview text={text} leads={isIndex ? leads : undefined} />
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
        <button type="button" className="btn btn-sm btn-primary" disabled={!canKeep} onClick={() => void keep()}>
          Keep
        </button>
      </div>
    </Dialog>
  );
}

function indexInWords(project: ProjectView, tag: Tag): string {
  const driver = describeDriver(project.link(project.deviceOf(tag)?.linkId ?? '')?.driver ?? '');
  return driver?.indexed
    ? `The address ${pointIn(tag)?.address ?? ''} is moved on by what this gives, counted in ${driver.indexed.counts}. While its value is not good, ${tag.name} has none. Empty for an address that stays.`
    : `Addresses of ${driver?.label ?? 'this device'} cannot be moved by an index.`;
}

/** Where the address leads for a value of the index. */
function placeInWords(project: ProjectView, tag: Tag, value: Value): string {
  const device = project.deviceOf(tag);
  const signal = project.effective(tag.id);
  if (!device || !signal.ok) return '';
  const moved = movedSignal(signal.value, value, device.dialect);
  return moved.ok ? (moved.value.driver?.notation.explain(moved.value.canonical, device.dialect) ?? '') : moved.problem.message;
}
