'use client';
/** Other ways to read an implausible value, live beside each other; one is taken only after it was looked at. */
import type { Tag } from '@/core/project/entities.ts';
import { withPoint } from '@/core/project/tagSource.ts';
import { wireFromJson, wireInWords } from '@/core/live/wireJson.ts';
import { followWire, unjudged } from '@/core/signal.ts';
import { plausibleWays, type PlausibleWay } from '@/core/check/plausibleWays.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useTagView } from '../live/liveHooks.ts';
import { Dialog } from '../parts/Dialog.tsx';

const SHOWN = 6;

export function WaysDialog({ tag, onClose }: { readonly tag: Tag; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const view = useTagView(tag.id);
  const effective = project.effective(tag.id);
  const wire = view?.sample?.wire ? wireFromJson(view.sample.wire) : null;
  if (!effective.ok) return null;
  const { def } = effective.value;
  const seen = (view?.recent ?? []).flatMap((json) => wireFromJson(json) ?? []);
  const ways = wire ? plausibleWays(def, wire, seen, SHOWN) : [];
  /** The last values as they would be in this way: one that is right moves as its process does. */
  const lately = ({ type, order }: PlausibleWay): string => {
    const parsed = parseDataType(type);
    if (!parsed.ok) return '';
    return seen.map((each) => followWire({ ...unjudged(def), type: parsed.value, order, bit: null }, each).text).join(', ');
  };
  const take = async ({ type, order }: PlausibleWay): Promise<void> => {
    const done = await change(`${tag.name} read as ${type}, ${order}`, [{ kind: 'tag', id: tag.id, set: { type, ...withPoint(tag, { order }) } }]);
    if (done.ok) onClose();
  };
  return (
    <Dialog title={`Is ${tag.name} read right?`} onClose={onClose} wide>
      <p className="quiet mb-3">
        It shows <span className="num">{view?.text}</span>: {view?.why.replace('implausible: ', '')}. The same bytes read in other ways are below, as
        they are now and as they were. Look which of them moves as the process does; the display of the controller tells for sure.
      </p>
      {view?.sample?.wire ? <p className="num mb-2">{wireInWords(view.sample.wire)}</p> : null}
      <ul className="text-[13px]">
        {ways.map((way) => (
          <li
            key={`${way.type} ${way.order}`}
            data-way={`${way.type} ${way.order}`}
            className="border-base-300 grid min-h-10 grid-cols-[9rem_1fr_1.4fr_auto] items-center gap-3 border-b"
          >
            <span className="num text-right text-base font-semibold">{way.text}</span>
            <span>{way.words}</span>
            <span className="num quiet truncate" title={lately(way)}>
              {lately(way)}
            </span>
            <button type="button" className="btn btn-xs btn-outline" onClick={() => void take(way)}>
              Read it so
            </button>
          </li>
        ))}
      </ul>
      {ways.length === 0 ? <p>No other way to read these bytes gives a number that a process has: check the address.</p> : null}
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
