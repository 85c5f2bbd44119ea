/** What differs between two projects, a line for each kind of thing. */
import { KINDS, labelOf } from '@/core/project/entities.ts';
import type { Difference } from '@/core/projectFile/projectFile.ts';

const NAMES_SHOWN = 12;

export function Differences({ all }: { readonly all: readonly Difference[] }) {
  return (
    <table className="my-2 w-full text-[13px]">
      <thead>
        <tr className="quiet text-left">
          <th className="w-40 font-semibold">What differs</th>
          <th className="w-20 text-right font-semibold">New</th>
          <th className="w-20 text-right font-semibold">Changed</th>
          <th className="w-20 text-right font-semibold">Gone</th>
          <th className="w-20 text-right font-semibold">Same</th>
          <th className="pl-4 font-semibold">Which</th>
        </tr>
      </thead>
      <tbody>
        {all
          .filter((d) => differing(d) > 0)
          .map((d) => (
            <DifferenceRow key={d.kind} difference={d} />
          ))}
      </tbody>
    </table>
  );
}

export function differing({ added, changed, removed }: Difference): number {
  return added.count + changed.count + removed.count;
}

function DifferenceRow({ difference }: { readonly difference: Difference }) {
  const { kind, added, changed, removed, same } = difference;
  const which = [
    ...removed.first.map((name) => `− ${name}`),
    ...changed.first.map(({ name, fields }) => `${name} (${fields.map((field) => labelOf(kind, field as 'id').toLowerCase()).join(', ')})`),
    ...added.first.map((name) => `+ ${name}`),
  ].slice(0, NAMES_SHOWN);
  const more = differing(difference) - which.length;
  const shown = which.join(' · ') + (more > 0 ? ` · and ${more} more` : '');
  return (
    <tr className="border-base-300 border-t align-top" data-differs={kind}>
      <td className="py-1">{KINDS[kind].words ?? KINDS[kind].plural}</td>
      <td className="num py-1 text-right">{added.count}</td>
      <td className="num py-1 text-right">{changed.count}</td>
      <td className={`num py-1 text-right ${removed.count > 0 ? 'is-bad font-semibold' : ''}`}>{removed.count}</td>
      <td className="num py-1 text-right">{same}</td>
      <td className="quiet py-1 pl-4">{shown}</td>
    </tr>
  );
}
