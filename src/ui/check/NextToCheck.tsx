'use client';
/** What to do next in a check, where no tag is selected. */
import { useProject } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';

/** In the order in which they ask for somebody. */
const ASKING = [
  ['failed', 'A witness saw another value: look at what differs.'],
  ['changed', 'Their signal path changed since they were proven.'],
  ['elsewhere', 'They were proven in another installation, perhaps at another machine.'],
  ['unproven', 'No witness has seen them yet.'],
  ['consistent', 'Wire and panel agree; no witness has seen them yet.'],
] as const;

export function NextToCheck() {
  const project = useProject();
  const counts = project.proofCounts();
  const next = ASKING.find(([state]) => counts[state] > 0);
  const nextTag = next ? project.tags.find((t) => project.proofOf(t.id).state === next[0]) : undefined;
  return (
    <section aria-label="What to do next" className="card-flat flex flex-col gap-3 p-4">
      <h2 className="text-base font-semibold">{next ? 'What to do next' : 'Every tag is proven'}</h2>
      <ol className="flex flex-col gap-1 text-[13px]">
        <li>1. Enter your name above: a proof says who saw the value.</li>
        <li>2. Look at the controller&apos;s own display, its programming tool, or a gauge: anything that does not use this mapping.</li>
        <li>3. Select a tag, enter what you see there, and compare. A device with a control channel is asked for all its tags at once.</li>
      </ol>
      <table className="text-[13px]">
        <tbody>
          {ASKING.filter(([state]) => counts[state] > 0).map(([state, words]) => (
            <tr key={state} className="border-base-300 border-t">
              <td className="num py-1 pr-3 text-right">{counts[state]}</td>
              <td className="py-1 pr-3 font-medium">{state}</td>
              <td className="quiet py-1">{words}</td>
            </tr>
          ))}
          <tr className="border-base-300 border-t">
            <td className="num py-1 pr-3 text-right">{counts.proven}</td>
            <td className="py-1 pr-3 font-medium">proven</td>
            <td className="quiet py-1">A witness saw the value, and nothing on its path changed since.</td>
          </tr>
        </tbody>
      </table>
      {next && nextTag ? (
        <button type="button" className="btn btn-sm btn-primary self-start" onClick={() => selectTag(nextTag.id)}>
          Check the next {next[0]} tag, {nextTag.name}
        </button>
      ) : null}
    </section>
  );
}
