/** What checks promise: mistakes made by somebody else are found and named, with few values and at once. */
import { campaign, scoreOf, tellingSetups } from '../tests/support/mistakes/campaign.ts';
import { tellingValues } from '@/core/check/mistakes/tellingValues.ts';
import type { Figure } from './figure.ts';

const TAGS = 2000;
const SEED = 20261201;

export async function* checks(): AsyncIterable<Figure> {
  const outcomes = await campaign(TAGS, SEED);
  const [single, double, outside, right] = (['single', 'double', 'outside', 'right'] as const).map((how) => scoreOf(outcomes, how));
  if (!single || !double || !outside || !right) throw new Error('no cases');
  const share = (part: number, { cases }: { readonly cases: number }): number => part / cases;
  const made = (how: string): string => {
    const kinds = new Map<string, number>();
    for (const each of outcomes) if (each.how === how) for (const kind of each.mistakes) kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
    return [...kinds].map(([kind, count]) => `${kind} ${count}`).join(', ');
  };
  const found = (name: string, ratio: number, wanted: number, detail: string): Figure => ({ name: `checks: ${name}`, ratio, wanted, detail });
  yield found('one mistake, the true cause first', share(single.first, single), 0.9, `${single.cases} tags: ${made('single')}`);
  yield found('one mistake, among the first three', share(single.amongThree, single), 0.99, '');
  yield found('two mistakes, the true cause first', share(double.first, double), 0.8, `${double.cases} tags: ${made('double')}`);
  yield found('two mistakes, among the first three', share(double.amongThree, double), 0.95, '');
  // Three mistakes of which two come to the same are explained by these two, and rightly.
  yield found(
    'outside the space, nothing explains it',
    share(outside.none + outside.first, outside),
    0.95,
    `${outside.cases} tags: ${made('outside')}`,
  );
  const values = outcomes.reduce((sum, each) => sum + each.values, 0) / outcomes.length;
  yield { name: 'checks: values looked at for a tag, on average', ratio: values, wanted: 4, atMost: true, detail: `${outcomes.length} tags` };
  yield { name: 'checks: right mappings called wrong', ratio: right.wronglyBlamed, wanted: 0, atMost: true, detail: `${right.cases} tags` };
  const times = outcomes.map(({ slowestMs }) => slowestMs).sort((a, b) => a - b);
  const at = (part: number): number => times[Math.floor(part * (times.length - 1))] ?? 0;
  yield {
    name: 'checks: the slowest explanation of a tag against 50 ms, of 99 in a hundred tags',
    ratio: at(0.99) / 50,
    wanted: 1,
    atMost: true,
    detail: `median ${at(0.5).toFixed(1)} ms, 99 % ${at(0.99).toFixed(1)} ms, slowest ${at(1).toFixed(1)} ms`,
  };
  const setups = await tellingSetups(1000, SEED);
  const begun = performance.now();
  let chosen = 0;
  for (const { def, cells, within } of setups) chosen += tellingValues(def, cells, within).values.length;
  const ms = performance.now() - begun;
  yield {
    name: 'checks: test values for 1 000 tags against 2 s',
    ratio: ms / 2000,
    wanted: 1,
    atMost: true,
    detail: `${ms.toFixed(0)} ms, ${(chosen / setups.length).toFixed(2)} values a tag`,
  };
}
