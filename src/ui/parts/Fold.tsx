'use client';
/** A part of a form that is folded away, with a line that says what is in it. */
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useState, type ReactNode } from 'react';

interface FoldProps {
  readonly title: string;
  /** What a reader needs to know of it while it is folded. */
  readonly summary: string;
  /** Unfolded from the start, or because something in it is wrong. */
  readonly isOpen?: boolean;
  readonly children: ReactNode;
}

export function Fold({ title, summary, isOpen = false, children }: FoldProps) {
  const [chosen, setChosen] = useState<boolean | null>(null);
  const open = isOpen || (chosen ?? false);
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        data-fold={title}
        className="border-base-300 col-span-4 mt-1 flex items-center gap-2 border-t pt-2 text-left"
        onClick={() => setChosen(!open)}
      >
        {open ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden />}
        <span className="font-semibold">{title}</span>
        <span className="quiet truncate text-[13px]">{summary}</span>
      </button>
      {open ? children : null}
    </>
  );
}
