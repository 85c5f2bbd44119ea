/**
 * The third link of the demo: WEIGH, a batch weigher with a server of OPC UA. Its list carries two honest mistakes: a tag that
 * reads the weight in place of the last batch, and one whose namespace went with an older program.
 */
import type { DemoDevice } from './demoDevice.ts';

/** @param place ports, and the fingerprint of its certificate: who sets the demo up has seen it; as the command line has them */
export function demoWeigh(place: string): DemoDevice {
  const [uaPort = '', controlPort = '', trusted = ''] = place.split(',');
  return {
    name: 'WEIGH',
    words: 'demo: weigher',
    link: {
      name: 'Weigher',
      driver: 'opc-ua',
      settings: { endpoint: `opc.tcp://127.0.0.1:${uaPort}`, policy: 'Basic256Sha256', mode: 'SignAndEncrypt', trusted },
    },
    settings: {},
    controlPort: Number(controlPort),
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
}
