/** Expressions over tags: what is read, what is refused and where, what they come to. mathjs is the reference for numbers. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { all, create } from 'mathjs';
import { checkExpression, type InputFacts } from '@/core/expression/check.ts';
import { compile, Evaluation, type Input, type Outcome } from '@/core/expression/evaluate.ts';
import { parseExpression } from '@/core/expression/parse.ts';
import { idsIn, withIds, withPaths } from '@/core/expression/references.ts';
import { pathInExpression } from '@/core/expression/tokens.ts';
import type { Value, ValueKind } from '@/core/expression/tree.ts';
import { uuidOf } from '../support/uuidOf.ts';

/** Compares digit by digit, as we do. */
const math = create(all ?? {}, { relTol: 1e-15, absTol: 1e-15 });

interface Known extends InputFacts {
  readonly id: string;
  readonly path: readonly string[];
}
const tag = (n: number, path: readonly string[], kind: ValueKind, unit = ''): Known => ({ id: uuidOf(n), path, kind, unit, name: path.join('.') });
const TAGS = [
  tag(1, ['KILN', 'temp'], 'number', '°C'),
  tag(2, ['KILN', 'Zone 1', 'temp'], 'number', '°C'),
  tag(3, ['KILN', 'pressure'], 'number', 'bar'),
  tag(4, ['KILN', 'fan'], 'boolean'),
  tag(5, ['PACK', 'product'], 'text'),
  tag(6, ['PACK', 'Codes[1]'], 'number'),
  tag(7, ['KILN', 'draught'], 'number', 'mbar'),
  tag(8, ['KILN', 'offset'], 'number', 'K'),
];
const resolve = (parts: readonly string[]): string | null => TAGS.find(({ path }) => path.join('\0') === parts.join('\0'))?.id ?? null;
const facts = (id: string): InputFacts | null => TAGS.find((known) => known.id === id) ?? null;

function read(text: string) {
  const tree = parseExpression(text, resolve);
  if (!tree.ok) return tree;
  const checked = checkExpression(tree.value, facts);
  return checked.ok ? { ok: true as const, tree: tree.value, ...checked.value, value: checked.value } : checked;
}
function problemOf(text: string): string {
  const done = read(text);
  if (done.ok) return 'none';
  const { message, remedy, from, to } = done.problem as typeof done.problem & { from: number; to: number };
  return `${message} ${remedy ?? ''} «${text.slice(from, to)}»`;
}
function evaluation(text: string) {
  const done = read(text);
  if (!done.ok) throw new Error(done.problem.message);
  const program = compile(done.tree, done);
  const running = new Evaluation(program);
  return (values: Readonly<Record<string, Value | null>> = {}, now = 0, doubted: readonly string[] = []): Outcome =>
    running.next(
      program.inputs.map((id): Input => {
        const name = TAGS.find((known) => known.id === id)?.path.join('.') ?? '';
        return { value: values[name] ?? null, isDoubted: doubted.includes(name) };
      }),
      now,
    );
}
function valueOf(text: string, values: Readonly<Record<string, Value | null>> = {}): unknown {
  const outcome = evaluation(text)(values);
  return outcome.kind === 'value' ? outcome.value : outcome;
}

describe('arithmetic', () => {
  // Precedence of IEC 61131-3, table 71 (edition 3, from memory); the values worked out by hand.
  test.each<[string, unknown]>([
    ['1 + 2 * 3', 7],
    ['(1 + 2) * 3', 9],
    ['10 - 4 - 3', 3],
    ['2 ** 3', 8],
    ['2 ** -1', 0.5],
    ['(-2) ** 2', 4],
    ['-(2 ** 2)', -4],
    ['7 mod 3', 1],
    ['-7 mod 3', -1],
    ['floor(-1.5) + ceil(-1.5) * 10 + trunc(-1.5) * 100', -112],
    ['1 / 4', 0.25],
    ['16#FF and 2#1010', 10],
    ['-1 and 255', 255],
    ['8 or 1', 9],
    ['6 xor 3', 5],
    ['1_000 + 1', 1001],
    ['not (1 > 2) and on', true],
    ['1 < 2 or off', true],
    ['on xor on', false],
    ["'a' = 'a'", true],
    ['1 = 1.0', true],
    ["concat('Bed ', 12.5, ' °C')", 'Bed 12.5 °C'],
    ['text(145 * 0.01, 1)', '1.5'],
    ['text(145 * 0.01)', '1.45'],
    ['round(1.005, 2)', 1.01],
    ['round(-2.5)', -3],
    ['limit(0, 120, 100)', 100],
    ['min(3, 1, 2) + max(3, 1, 2)', 4],
    ['if(2 > 1, 5, 6)', 5],
    ['mux(2, 10, 20, 30)', 30],
    ['bit(16#80, 7)', true],
    ['shl(1, 40)', 1_099_511_627_776],
    ['shr(-8, 1)', -4],
    ["mid('QUERN', 2, 3)", 'ER'],
    ["find('QUERN', 'ER')", 3],
    ["find('QUERN', 'X')", 0],
    ["number(' 12.5 ')", 12.5],
    ['hex(162, 4)', '00A2'],
    // IEC 60751: 138.5055 Ω are 100 °C; the nearest four places of it here.
    ['round(platinum(100, 138.5055), 3)', 100],
    ['round(platinum(1000, 1000), 6)', 0],
    ["len('Öl') + len(left('QUERN', 2))", 4],
    ["'it$'s'", "it's"],
    ['9007199254740993 + 1', 9_007_199_254_740_994n],
    ['9007199254740993 - 9007199254740992', 1],
    ['9223372036854775807 * 2', 18_446_744_073_709_551_614n],
  ])('%s is %p', (text, value) => {
    expect(valueOf(text)).toEqual(value);
  });

  const operators: readonly string[] = ['+', '-', '*', '/'];
  const unary = ['abs', 'sqrt', 'exp', 'sin', 'cos', 'tan', 'atan', 'sign'];
  const leaf = fc.oneof(
    fc.integer({ min: 0, max: 1000 }).map(String),
    fc.integer({ min: 1, max: 99_999 }).map((n) => String(n / 100)),
    fc.constantFrom('a', 'b'),
  );
  const { whole } = fc.letrec<{ whole: string }>((tie) => ({
    whole: fc.oneof(
      { maxDepth: 5 },
      leaf,
      fc.tuple(tie('whole'), fc.constantFrom(...operators), tie('whole')).map(([a, operator, b]) => `(${a}) ${operator} (${b})`),
      fc
        .tuple(tie('whole'), fc.constantFrom('+', '-', '*'), tie('whole'), fc.constantFrom('+', '*', '/'), leaf)
        .map(([a, o, b, p, c]) => `(${a}) ${o} (${b}) ${p} ${c}`),
      fc.tuple(fc.constantFrom(...unary), tie('whole')).map(([name, a]) => `${name}(${a})`),
      fc.tuple(fc.constantFrom('min', 'max'), tie('whole'), tie('whole')).map(([name, a, b]) => `${name}(${a}, ${b})`),
      tie('whole').map((a) => `-(${a})`),
    ),
  }));
  /** Null where it is no real number, complex ones included. */
  const referenceOf = (text: string, scope: object): number | null => {
    try {
      const value: unknown = math.evaluate(text, scope);
      return typeof value === 'number' && Number.isFinite(value) ? value : null;
    } catch {
      return null;
    }
  };
  test('random expressions are what mathjs makes of them', () => {
    let compared = 0;
    fc.assert(
      fc.property(
        whole,
        fc.integer({ min: -1_000_000, max: 1_000_000 }).map((n) => n / 64),
        fc.integer({ min: -50, max: 50 }),
        (text, a, b) => {
          // Told before it runs.
          if (/\/ \(?0\b(?!\.)/.test(text)) return;
          const ours = valueOf(text.replaceAll(/\ba\b/g, 'KILN.temp').replaceAll(/\bb\b/g, 'KILN.pressure'), { 'KILN.temp': a, 'KILN.pressure': b });
          const theirs = referenceOf(text, { a, b });
          if (theirs === null) expect(typeof ours).toBe('object');
          else if (typeof ours === 'object') expect([text, ours]).toEqual([text, expect.objectContaining({ kind: 'none' })]);
          else {
            compared++;
            expect(Math.abs(Number(ours) - theirs)).toBeLessThanOrEqual(Math.abs(theirs) * 1e-9 + 1e-9);
          }
        },
      ),
      { numRuns: 1500 },
    );
    expect(compared).toBeGreaterThan(500);
  });

  // mathjs takes the sign of the divisor for the rest, IEC 61131-3 that of the dividend; both agree from 0 on.
  test('the rest of a division of whole numbers is that of mathjs', () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.integer({ min: 1, max: 5000 }), (a, b) => {
        expect(valueOf(`${a} mod ${b}`)).toBe(referenceOf(`${a} mod ${b}`, {}));
      }),
    );
  });

  test('what has no number is none, and says why', () => {
    expect(valueOf('1 / KILN.pressure', { 'KILN.pressure': 0 })).toEqual({ kind: 'none', message: 'The expression has no result: it divides by 0.' });
    expect(valueOf('sqrt(0 - 1)')).toMatchObject({ kind: 'none' });
    expect(valueOf("number('12,5')")).toMatchObject({ kind: 'none' });
    // A part that is no number is not swallowed by what is around it.
    expect(valueOf('min(1, sqrt(0 - 1))')).toMatchObject({ kind: 'none' });
    expect(valueOf('sqrt(0 - 1) > 1')).toMatchObject({ kind: 'none' });
    expect(valueOf('1 / (1e300 * 1e300)')).toMatchObject({ kind: 'none' });
    expect(valueOf('mux(7, 1, 2)')).toMatchObject({ kind: 'none' });
  });
});

describe('what cannot be is refused, with the place and what to write instead', () => {
  test.each([
    ['KILN.tmp + 1', 'There is no tag “KILN.tmp”.', 'KILN.tmp'],
    ['KILN.temp +', 'Something is missing at the end.', ''],
    ['avg(1, 2)', 'perhaps “average”', 'avg'],
    ['1,5 + 2', 'decimal point', '1,5'],
    ['KILN.temp & 1', 'concat', '&'],
    ['1 < KILN.temp < 3', 'a < b and b < c', '<'],
    ['-2 ** 2', 'brackets', ''],
    ['2 ** 3 ** 2', '(a ** b) ** c', ''],
    ['if(KILN.temp, 1, 2)', '“if” needs on or off, and this is a number.', 'KILN.temp'],
    ['KILN.fan + 1', '“+” needs a number, and this is on or off.', 'KILN.fan'],
    ['PACK.product = 1', 'cannot be compared', 'PACK.product = 1'],
    ["if(KILN.fan, 1, 'x')", '“if” gives a number here and a text there.', "'x'"],
    ['min(1)', 'It is written min(a, b, …)', 'min(1)'],
    ['(1 + 2', 'The bracket is not closed.', ''],
    ["'open", 'The text has no end.', "'open"],
    ['KILN.temp KILN.temp', 'Two values need an operator between them', 'KILN.temp'],
    ['if(KILN.fan, average(KILN.temp, 60), 0)', 'must see every moment', 'average(KILN.temp, 60)'],
    ['good(1 + 2)', 'good(KILN.temp)', 'good(1 + 2)'],
    ['', 'There is no expression yet.', ''],
    ['1 / 0', 'divided by 0', '0'],
    ['KILN.temp #', 'has no meaning here', '#'],
  ])('%s', (text, words, place) => {
    const told = problemOf(text);
    expect(told.replace('-2 ** 2', 'brackets')).toContain(words === 'brackets' ? 'Write −(a ** b)' : words);
    if (place !== '') expect(told).toContain(`«${place}»`);
  });

  test('brackets without end and expressions without measure are refused at once', () => {
    const began = Date.now();
    expect(read('('.repeat(3000) + '1' + ')'.repeat(3000)).ok).toBe(false);
    expect(read('-'.repeat(3000) + '1').ok).toBe(false);
    expect(problemOf(Array.from({ length: 400 }, () => '1').join(' + '))).toContain('parts');
    expect(Date.now() - began).toBeLessThan(2000);
  });

  test('no text makes it fail in any other way, or reach anything', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 40 }),
          fc
            .array(fc.constantFrom('(', ')', '+', 'if', ',', 'KILN', '.', 'temp', "'", '"', '1', 'constructor', '__proto__', 'and', '**', '-'), {
              maxLength: 14,
            })
            .map((words) => words.join('')),
        ),
        (text) => {
          const done = read(text);
          expect(typeof done.ok).toBe('boolean');
        },
      ),
      { numRuns: 3000 },
    );
  });

  test('units that clash are doubted, not refused', () => {
    const doubts = (text: string) => {
      const done = read(text);
      return done.ok ? done.doubts.map(({ message }) => message) : [done.problem.message];
    };
    expect(doubts('KILN.temp + KILN.pressure')).toEqual(['It adds °C and bar.']);
    expect(doubts('KILN.temp > KILN.pressure')).toEqual(['It compares °C and bar.']);
    expect(doubts('max(KILN.temp, KILN."Zone 1".temp) - 20')).toEqual([]);
    expect(doubts('KILN.temp * KILN.pressure')).toEqual([]);
    // One factor away, and nobody sees it in the numbers.
    const mixed = read('KILN.pressure - KILN.draught');
    expect(mixed.ok && mixed.doubts[0]).toMatchObject({ message: 'It subtracts bar and mbar.', remedy: 'Convert one of them: 1 mbar is 0.001 bar.' });
    const sum = read('average(KILN.temp, 60) + 1');
    expect(sum.ok && [sum.kind, sum.unit]).toEqual(['number', '°C']);
  });
});

describe('sensors', () => {
  const one = (text: string): number => {
    const outcome = evaluation(text)();
    return outcome.kind === 'value' ? Number(outcome.value) : NaN;
  };
  // IEC 60584-1: type K has 4.096 mV at 100 °C and 0.798 mV at 20 °C, its reference junction at 0 °C.
  test('a thermocouple is corrected by where its reference junction is measured', () => {
    expect(one("thermocouple('K', 4.096)")).toBeCloseTo(100, 1);
    expect(one("thermocouple('k', 3.298, 20)")).toBeCloseTo(100, 1);
    expect(one("thermocouple('K', 99999)")).toBeNaN();
    expect(one("thermocouple('X', 1)")).toBeNaN();
  });
});

describe('temperatures and their differences', () => {
  test.each([
    ['KILN.temp - KILN."Zone 1".temp', 'Δ°C'],
    ['KILN.temp + (KILN.temp - KILN."Zone 1".temp)', '°C'],
    ['KILN.temp - KILN.offset', '°C'],
    ['KILN.offset + KILN.temp', '°C'],
    ['abs(KILN.temp - KILN."Zone 1".temp)', 'Δ°C'],
    // Half of it may be a mean; by itself it is nothing.
    ['KILN.temp + KILN."Zone 1".temp', null],
    ['KILN.pressure - KILN.pressure', 'bar'],
    ["thermocouple('K', KILN.offset, 20)", '°C'],
  ])('%s is in %s', (text, unit) => {
    const done = read(text);
    expect(done.ok && [done.unit, done.doubts]).toEqual([unit, []]);
  });
  test('a temperature is not compared with a difference, nor taken from one', () => {
    for (const text of ['KILN.temp > KILN.temp - KILN."Zone 1".temp', '(KILN.temp - KILN."Zone 1".temp) - KILN.temp']) {
      const done = read(text);
      expect(done.ok && done.doubts.length).toBe(1);
    }
  });
});

describe('quality goes with the values', () => {
  test('a bad input gives no value and is named; an uncertain one makes the result uncertain', () => {
    const next = evaluation('KILN.temp + KILN.pressure');
    expect(next({ 'KILN.temp': 1, 'KILN.pressure': null })).toEqual({ kind: 'input', input: 1 });
    expect(next({ 'KILN.temp': 1, 'KILN.pressure': 2 }, 0, ['KILN.pressure'])).toEqual({ kind: 'value', value: 3, doubted: 1 });
    expect(next({ 'KILN.temp': 1, 'KILN.pressure': 2 })).toEqual({ kind: 'value', value: 3, doubted: null });
  });
  test('only what is used counts: the other branch may be bad', () => {
    const next = evaluation('if(good(KILN.temp), KILN.temp, KILN.pressure)');
    expect(next({ 'KILN.temp': 1 })).toEqual({ kind: 'value', value: 1, doubted: null });
    expect(next({ 'KILN.pressure': 2 })).toEqual({ kind: 'value', value: 2, doubted: null });
    expect(next({ 'KILN.temp': 1, 'KILN.pressure': 2 }, 0, ['KILN.temp'])).toEqual({ kind: 'value', value: 2, doubted: null });
  });
});

describe('functions that keep something', () => {
  const run = (text: string, moments: readonly (readonly [now: number, value: Value | null])[], name = 'KILN.temp'): unknown[] => {
    const next = evaluation(text);
    return moments.map(([now, value]) => {
      const outcome = next({ [name]: value }, now);
      return outcome.kind === 'value' ? outcome.value : outcome.kind;
    });
  };
  test('the average is over time, not over samples, and leaves out what was not known', () => {
    expect(
      run('average(KILN.temp, 10)', [
        [0, 10],
        [5000, 20],
        [10_000, 20],
        [15_000, 20],
        [20_000, 0],
      ]),
    ).toEqual([10, 10, 15, 20, 20]);
    expect(
      run('average(KILN.temp, 10)', [
        [0, 10],
        [2000, null],
        [6000, 30],
        [8000, 30],
      ]),
    ).toEqual([10, 'input', 30, 30]);
  });
  test('count and rising see edges; ontime adds up', () => {
    const moments = [
      [0, true],
      [1000, false],
      [2000, true],
      [5000, true],
      [6000, false],
      [7000, true],
    ] as const;
    expect(run('count(KILN.fan)', moments, 'KILN.fan')).toEqual([0, 0, 1, 1, 1, 2]);
    expect(run('rising(KILN.fan)', moments, 'KILN.fan')).toEqual([false, false, true, false, false, true]);
    expect(run('ontime(KILN.fan)', moments, 'KILN.fan')).toEqual([0, 1, 1, 4, 5, 5]);
  });
  test('since, previous and latch', () => {
    expect(
      run('since(KILN.temp)', [
        [1000, 5],
        [3000, 5],
        [4000, 6],
        [4500, 6],
      ]),
    ).toEqual([0, 2, 0, 0.5]);
    expect(
      run('previous(KILN.temp)', [
        [0, 5],
        [1, 5],
        [2, 6],
        [3, 6],
        [4, 7],
      ]),
    ).toEqual(['none', 'none', 5, 5, 6]);
    expect(
      run('latch(KILN.temp > 10, KILN.temp < 2)', [
        [0, 5],
        [1, 11],
        [2, 5],
        [3, 1],
        [4, 5],
      ]),
    ).toEqual([false, true, true, false, false]);
  });
});

describe('names and ids', () => {
  test('an expression is stored with ids, so that another name changes nothing, and is shown with the names of now', () => {
    const text = 'KILN."Zone 1".temp  -  KILN.temp * PACK.Codes[1]';
    const stored = withIds(text, resolve);
    expect(stored).toEqual({ ok: true, value: `@${uuidOf(2)}  -  @${uuidOf(1)} * @${uuidOf(6)}` });
    const value = stored.ok ? stored.value : '';
    expect(idsIn(value)).toEqual([uuidOf(2), uuidOf(1), uuidOf(6)]);
    const shown = (id: string) =>
      id === uuidOf(1) ? pathInExpression(['KILN', 'Bed "new"']) : pathInExpression(TAGS.find((t) => t.id === id)?.path ?? []);
    expect(withPaths(value, shown)).toBe('KILN."Zone 1".temp  -  KILN."Bed ""new""" * PACK.Codes[1]');
    expect(withPaths(value, () => null)).toBe(value);
    expect(withIds(value, resolve)).toEqual(stored);
  });
});
