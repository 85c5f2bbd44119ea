/** The tag list that the kiln's program keeps of itself, as file 1 of its records: its drives as they are now. */
const TAGS = [
  { name: 'own.fan_speed', address: '40024', type: 'UINT', unit: 'rpm', low: 0, high: 2000, group: 'Fan', comment: 'Exhaust fan, speed' },
  { name: 'own.belt_load', address: '40030', type: 'INT', unit: '%', low: 0, high: 120, group: 'Belt', comment: 'Belt drive load' },
  { name: 'own.batch_time', address: '40096', type: 'TIME', group: 'Batch', comment: 'How long the last batch took' },
  {
    name: 'own.mode',
    address: '40034',
    type: 'BYTE',
    group: 'Batch',
    names: [
      { value: 1, name: 'manual' },
      { value: 2, name: 'automatic' },
    ],
  },
];

export function ownList(): Buffer {
  const text = Buffer.from(JSON.stringify({ format: 'mill-latch-tags', version: 1, program: { version: '2.4' }, tags: TAGS }), 'utf8');
  // Records are two bytes: a NUL ends the text, and fills the last one.
  return Buffer.concat([text, Buffer.alloc(2 - (text.length % 2))]);
}
