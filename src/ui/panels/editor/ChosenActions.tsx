'use client';
/** What can be done with what is chosen, whatever it is; each has its key. */
import { ArrowDownToLine, ArrowUpToLine, Copy, Grid3x3, Lock, Trash2 } from 'lucide-react';
import type { Edit } from './useEdit.ts';

export function ChosenActions({ edit, onMultiply }: { readonly edit: Edit; readonly onMultiply: () => void }) {
  const actions = [
    ['Duplicate', 'Ctrl D', Copy, () => void edit.duplicate()],
    ['Multiply', 'into rows and columns', Grid3x3, onMultiply],
    ['To the front', 'Ctrl ↑', ArrowUpToLine, () => edit.order('front')],
    ['To the back', 'Ctrl ↓', ArrowDownToLine, () => edit.order('back')],
    ['Lock', 'Ctrl L: lock, or unlock', Lock, () => edit.lock()],
    ['Remove', 'Del', Trash2, () => void edit.remove()],
  ] as const;
  return (
    <div className="flex flex-wrap gap-1" role="group" aria-label="What is chosen">
      {actions.map(([name, key, Icon, run]) => (
        <button key={name} type="button" className="btn btn-xs" title={key} onClick={run}>
          <Icon size={12} aria-hidden /> {name}
        </button>
      ))}
    </div>
  );
}
