/**
 * The fourth link of the demo: PACK, a bagging cell whose controller knows its tags by name. Its list carries two honest mistakes: a
 * bagger counted from one where the controller counts from zero, and a member that had another type before its structure was laid out anew.
 */
import type { DemoDevice } from './device.ts';

export const PACK: DemoDevice = {
  name: 'PACK',
  words: 'demo: bagging cell',
  link: 'pack',
  fileName: 'pack-tags.csv',
  panel: 'Bagging panel',
  page: 'Baggers',
  elements: [
    ['lamp', 'line_running', 'Line', { onText: 'RUNS', offText: 'STOPPED' }],
    ['number', 'line_speed', 'Belt'],
    ['entry', 'line_speed_sp', 'Belt, set point'],
    ['number', 'shift', 'Shift'],
    ['bar', 'bagger_1_weight', 'Bagger 1', { low: 0, high: 30 }],
    ['bar', 'bagger_2_weight', 'Bagger 2', { low: 0, high: 30 }],
    ['bar', 'bagger_3_weight', 'Bagger 3', { low: 0, high: 30 }],
    ['bar', 'film_left', 'Film', { low: 0, high: 100 }],
    ['number', 'pallet_bags', 'On the pallet'],
    ['lamp', 'film_alarm', 'Film', { onText: 'ENDS SOON', offText: 'ENOUGH' }],
  ],
};
