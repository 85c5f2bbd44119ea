'use client';
/** All keys on one page. */
import { Dialog } from '../parts/Dialog.tsx';
import { STEPS } from './steps.ts';

const KEYS: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    'Anywhere',
    [
      ['Ctrl K', 'find a tag, a device, a step or an action'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['Esc', 'put back what is set for a check'],
      ['?', 'this page'],
    ],
  ],
  ['Steps', STEPS.map((step, i) => [`Alt ${i + 1}`, step.name] as const)],
  [
    'In the map',
    [
      ['↑ ↓ ← →', 'move'],
      ['Enter or F2', 'edit the cell'],
      ['any letter', 'edit, beginning with it'],
      ['Tab, Enter', 'keep, and go right or down'],
      ['Esc', 'leave without keeping'],
      ['Shift + arrows', 'select a block of cells; Ctrl A all'],
      ['Ctrl Enter', 'keep it in the whole block'],
      ['Ctrl D', 'fill down; with Shift count on'],
      ['Ctrl C, Ctrl V', 'to and from a spreadsheet'],
      ['Ctrl H', 'find and replace'],
      ['Alt ← →', 'make the column narrower or wider'],
      ['Del', 'remove the tags (undo brings them back)'],
    ],
  ],
  [
    'On a page that is drawn',
    [
      ['Tab', 'from element to element'],
      ['Enter, Space', 'choose it; one more, or one less'],
      ['↑ ↓ ← →', 'move by the grid; with Shift by a pixel'],
      ['Alt Shift + arrows', 'make it larger or smaller'],
      ['Ctrl C, X, V, D', 'copy, cut, paste, duplicate'],
      ['Ctrl G', 'group; with Shift ungroup'],
      ['Ctrl L', 'lock, or unlock'],
      ['Ctrl ↑ ↓', 'to the front, to the back'],
      ['Ctrl A, Esc', 'choose all, or none'],
      ['Del', 'remove'],
    ],
  ],
  [
    'In lists of tags',
    [
      ['↑ ↓', 'move'],
      ['Enter', 'choose'],
      ['Esc', 'leave'],
    ],
  ],
];

export function KeysDialog({ onClose }: { readonly onClose: () => void }) {
  return (
    <Dialog title="Keys" onClose={onClose} wide>
      <div className="grid grid-cols-2 gap-x-8 gap-y-4">
        {KEYS.map(([title, keys]) => (
          <section key={title}>
            <h3 className="mb-1 font-semibold">{title}</h3>
            <dl className="grid grid-cols-[8.5rem_1fr] items-center gap-y-1">
              {keys.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt>
                    <kbd className="kbd kbd-sm">{key}</kbd>
                  </dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <div className="mt-5 text-right">
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
