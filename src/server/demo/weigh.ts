/**
 * The third link of the demo: WEIGH, a batch weigher that tells its values by itself. Its list carries two honest mistakes: a tag that
 * reads the weight in place of the last batch, and one whose namespace went with an older program.
 */
import type { DemoDevice } from './device.ts';
import { bar, entry, frame, pipe, symbol, text, value } from './pages.ts';

export const WEIGH: DemoDevice = {
  name: 'WEIGH',
  words: 'demo: weigher',
  link: 'weigh',
  fileName: 'weigh-nodes.csv',
  panel: 'Weigher panel',
  page: 'Batch weigher',
  elements: [
    frame([16, 24, 816, 720], 'Weigher'),
    symbol([336, 40, 176, 120], 'silo', undefined, 'Oats'),
    pipe(
      [412, 156, 24, 44],
      [
        [500, 0],
        [500, 1000],
      ],
      'gate_1 > 1',
    ),
    symbol([392, 196, 64, 80], 'gate', 'gate_1', '', '', '', { states: [], word: false }),
    bar([480, 204, 240, 72], 'gate_1', 'Inlet gate', { low: 0, high: 100 }),
    pipe(
      [412, 276, 24, 44],
      [
        [500, 0],
        [500, 1000],
      ],
      'gate_1 > 1',
    ),
    bar([272, 320, 304, 280], 'weight', 'Hopper', { low: 0, high: 200, shape: 'silo', target: { by: 'weight_sp' }, frame: 'none' }),
    pipe(
      [352, 596, 24, 48],
      [
        [500, 0],
        [500, 1000],
      ],
      'gate_2 > 1',
    ),
    pipe(
      [472, 596, 24, 48],
      [
        [500, 0],
        [500, 1000],
      ],
      'gate_3 > 1',
    ),
    bar([96, 604, 240, 72], 'gate_2', 'Outlet gate 1', { low: 0, high: 100 }),
    bar([512, 604, 240, 72], 'gate_3', 'Outlet gate 2', { low: 0, high: 100 }),
    symbol([328, 644, 72, 72], 'bagger', undefined, ''),
    symbol([448, 644, 72, 72], 'bagger', undefined, ''),
    frame([848, 24, 416, 400], 'Batch'),
    value([864, 48, 384, 96], 'weight', 'Weight', { size: 'huge' }),
    entry([864, 156, 184, 72], 'weight_sp', 'Set point'),
    value([1064, 156, 184, 72], 'last_batch', 'Last batch'),
    {
      kind: 'lamp',
      at: [864, 240, 184, 72],
      tag: 'weigher_state',
      label: 'State',
    },
    {
      kind: 'switch',
      at: [1064, 240, 184, 72],
      tag: 'running',
      label: 'Weigher',
      settings: {
        states: [
          { at: 1, to: null, text: 'RUNS', look: 'on', symbol: null },
          { at: 0, to: null, text: 'STOPPED', look: 'off', symbol: null },
        ],
      },
    },
    value([864, 324, 184, 72], 'batches', 'Batches'),
    value([1064, 324, 184, 72], 'recipe', 'Recipe'),
    { kind: 'trend', at: [848, 448, 416, 248], tag: 'weight', label: 'Weight, last 3 minutes', settings: { moreTags: ['weight_sp'], minutes: 3 } },
    text([848, 712, 416, 24], 'Weighed in all: {total_mg}', { tone: 'quiet' }),
  ],
};
