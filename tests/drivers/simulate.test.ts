/** What a simulated device is told of scales: a straight line, whatever its steps; on a curve it moves its counts. */
import { expect, test } from '@jest/globals';
import type { Scale } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { simulatedConfig } from '../support/simulatedConfig.ts';

interface Told {
  readonly factor: number;
  readonly shift: number;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
}

function told(scale: Scale, range: { readonly low: number; readonly high: number } | null): Told {
  const type = parseDataType('INT');
  if (!type.ok) throw new Error('no type');
  const def = { type: type.value, order: 'AB', bit: null, scale, unit: '°C', decimals: 1, range } as const;
  const config = simulatedConfig([
    { name: 'KILN', settings: { unit: 1 }, dialect: {}, tags: [{ name: 'x', canonical: 'HR5', def, isSetPoint: false }] },
  ]);
  if (!config.ok) throw new Error(config.problem.message);
  const { devices } = config.value as { readonly devices: readonly { readonly tags: readonly Told[] }[] };
  const [tag] = devices[0]?.tags ?? [];
  if (!tag) throw new Error('no tag');
  return tag;
}

const card = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 20 } as const;

test('a chain that is a straight line is told as one, with its range', () => {
  const loop: Scale = { kind: 'chain', steps: [card, { kind: 'current' }, { kind: 'linear', rawA: 4, engA: 0, rawB: 20, engB: 100 }] };
  const { factor, shift, unit, low, high } = told(loop, { low: 0, high: 100 });
  expect([shift, unit, low, high]).toEqual([-25, '°C', 0, 100]);
  expect(factor * 27_648 + shift).toBeCloseTo(100, 9);
});

test('on a curve the counts move, over what the range comes to', () => {
  const root: Scale = { kind: 'root', zero: 0, span: 27_648, full: 120, cut: 0 };
  expect(told(root, { low: 0, high: 60 })).toMatchObject({ factor: 1, shift: 0, unit: 'counts', low: 0, high: 6912 });
  expect(told(root, null)).toMatchObject({ factor: 1, shift: 0, unit: 'counts', low: 0, high: 27_648 });
});
