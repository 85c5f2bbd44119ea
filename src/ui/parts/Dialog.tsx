'use client';
/** A dialog in the browser's own element: focus stays inside, Escape closes it. */
import { useEffect, useRef, type ReactNode } from 'react';

export function Dialog({
  title,
  onClose,
  children,
  wide = false,
}: {
  readonly title: string;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly wide?: boolean;
}) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (ref.current && !ref.current.open) ref.current.showModal();
  }, []);
  return (
    <dialog ref={ref} className="modal" aria-label={title} onClose={onClose}>
      <div className={`modal-box hairline shadow-none ${wide ? 'max-w-4xl' : 'max-w-lg'}`}>
        <h2 className="mb-4 text-lg font-semibold">{title}</h2>
        {children}
      </div>
    </dialog>
  );
}
