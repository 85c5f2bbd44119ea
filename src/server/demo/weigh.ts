/**
 * The third link of the demo: WEIGH, a batch weigher that tells its values by itself. Its list carries two honest mistakes: a tag that
 * reads the weight in place of the last batch, and one whose namespace went with an older program.
 */
import type { DemoDevice } from './device.ts';

export const WEIGH: DemoDevice = {
  name: 'WEIGH',
  words: 'demo: weigher',
  link: 'weigh',
  fileName: 'weigh-nodes.csv',
  panel: 'Weigher panel',
  page: 'Batch weigher',
  elements: [
    ['number', 'weight', 'Weight'],
    ['bar', 'weight', 'Hopper', { low: 0, high: 200 }],
    ['entry', 'weight_sp', 'Set point'],
    ['number', 'weigher_state', 'State'],
    ['lamp', 'running', 'Weigher', { onText: 'RUNS', offText: 'STOPPED' }],
    ['bar', 'gate_1', 'Inlet gate', { low: 0, high: 100 }],
    ['number', 'batches', 'Batches'],
    ['number', 'recipe', 'Recipe'],
  ],
};
