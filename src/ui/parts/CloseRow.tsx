'use client';
/** The foot of a dialog in which everything is kept at once. */
export function CloseRow({ onClose }: { readonly onClose: () => void }) {
  return (
    <div className="mt-4 flex justify-end">
      <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
        Close
      </button>
    </div>
  );
}
