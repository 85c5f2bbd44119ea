/**
 * The fourth link of the demo: PACK, a bagging cell whose controller knows its tags by name. Its list carries two honest mistakes: a
 * bagger counted from one where the controller counts from zero, and a member that had another type before its structure was laid out anew.
 */
import type { DemoDevice } from './device.ts';
import { bar, entry, frame, lamp, pipe, symbol, text, value, type DemoElement } from './pages.ts';

/** One bagger in a column of its own; all four are alike. */
function bagger(n: number): readonly DemoElement[] {
  const x = 16 + (n - 1) * 256;
  const of = (tag: string): string => `bagger_${n}_${tag}`;
  return [
    frame([x, 160, 240, 440], `Bagger ${n}`),
    symbol([x + 16, 180, 88, 108], 'bagger', of('running'), '', 'RUNS', 'STOPPED'),
    { kind: 'lamp', at: [x + 112, 180, 112, 54], tag: of('state'), label: 'Does' },
    lamp([x + 112, 238, 112, 54], of('fault'), 'Fault', 'FAULT', 'NONE', { on: 'bad', off: 'plain' }),
    bar([x + 16, 300, 208, 148], of('weight'), `Bagger ${n}`, { low: 0, high: 30, direction: 'up', target: { by: of('target') } }),
    entry([x + 16, 456, 208, 60], of('target'), 'Full bag'),
    value([x + 16, 524, 100, 60], of('bags'), 'Bags', { size: 'small' }),
    value([x + 124, 524, 100, 60], of('jaw'), 'Jaw', { size: 'small', decimals: 0 }),
  ];
}

export const PACK: DemoDevice = {
  name: 'PACK',
  words: 'demo: bagging cell',
  link: 'pack',
  fileName: 'pack-tags.csv',
  panel: 'Bagging panel',
  page: 'Baggers',
  elements: [
    frame([16, 24, 1008, 112], 'Belt'),
    symbol([32, 40, 120, 88], 'conveyor', 'line_running', '', 'RUNS', 'STOPPED', { word: false }),
    lamp([168, 48, 176, 72], 'line_running', 'Line', 'RUNS', 'STOPPED'),
    value([360, 48, 176, 72], 'line_speed', 'Belt'),
    entry([552, 48, 224, 72], 'line_speed_sp', 'Belt, set point'),
    value([792, 48, 216, 72], 'shift', 'Shift'),
    ...[1, 2, 3, 4].flatMap(bagger),
    pipe(
      [16, 612, 1024, 24],
      [
        [0, 500],
        [1000, 500],
      ],
      'line_running',
    ),
    text([32, 640, 960, 28], 'Bags since the cell was built: {bags_total}', { tone: 'quiet' }),
    { kind: 'trend', at: [16, 668, 1008, 76], tag: 'line_speed', label: 'Belt, last minutes', settings: { minutes: 5 }, phone: { width: 'hidden' } },
    frame([1056, 24, 208, 272], 'Film'),
    bar([1072, 44, 176, 176], 'film_left', 'Film', { low: 0, high: 100, shape: 'tank', frame: 'none' }),
    lamp([1072, 228, 176, 56], 'film_alarm', 'Film', 'ENDS SOON', 'ENOUGH', { on: 'look', off: 'plain' }),
    frame([1056, 320, 208, 424], 'Pallet'),
    value([1072, 344, 176, 72], 'pallet_bags', 'On the pallet', { size: 'large' }),
    value([1072, 428, 176, 64], 'pallet_layer', 'Layers'),
    entry([1072, 504, 176, 64], 'bags_wanted', 'Bags of the order'),
    lamp([1072, 580, 176, 64], 'air_ok', 'Air', 'THERE', 'GONE', { off: 'bad' }),
    lamp([1072, 656, 176, 64], 'film_ok', 'Film', 'THREADED', 'TORN', { off: 'bad' }),
  ],
};
