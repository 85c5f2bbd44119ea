'use client';
/** Where an address leads while it is typed: in words and in every notation, or why it is refused and what was likely meant. */
import Link from 'next/link';
import type { Device } from '@/core/project/entities.ts';
import { useProject } from '../live/LiveContext.tsx';
import { adviceOn } from './addressHelp.ts';

interface AddressHelpProps {
  readonly device: Device | null;
  readonly type: string;
  readonly text: string;
  readonly prefix: string;
  /** Of the tag that is edited; empty for a new one. */
  readonly tagId: string;
  readonly onTake: (address: string) => void;
  /** Where the address can be moved by another tag, asks by which. */
  readonly onIndex?: () => void;
}

export function AddressHelp({ device, type, text, prefix, tagId, onTake, onIndex }: AddressHelpProps) {
  const project = useProject();
  const advice = adviceOn(project, device, type, text, prefix, tagId);
  if (!advice) return null;
  const take = (address: string) => (
    <button
      key={address}
      type="button"
      className="num link mr-2"
      title="Write it so"
      onMouseDown={(e) => {
        e.preventDefault();
        onTake(address);
      }}
    >
      {address}
    </button>
  );
  return (
    <div className="text-xs whitespace-normal" data-address-help={advice.kind}>
      {advice.kind === 'place' ? (
        <>
          <p>{advice.words}</p>
          {advice.ways.length > 0 ? <p className="quiet">The same place: {advice.ways.map(take)}</p> : null}
          {advice.taken === '' ? null : <p className="is-look">There lies {advice.taken} already.</p>}
          {onIndex && advice.canBeMoved ? (
            <button
              type="button"
              className="link"
              onMouseDown={(e) => {
                e.preventDefault();
                onIndex();
              }}
            >
              Move it by an index…
            </button>
          ) : null}
        </>
      ) : (
        <>
          <p className="is-bad">{advice.message}</p>
          <p className="quiet">{advice.remedy}</p>
          {advice.nearest === null ? null : <p>Nearest: {take(advice.nearest)}</p>}
          {advice.href === null ? null : (
            <Link href={advice.href} className="link" onMouseDown={(e) => e.preventDefault()}>
              Go to that setting
            </Link>
          )}
        </>
      )}
    </div>
  );
}
