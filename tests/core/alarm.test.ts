/** States of alarms by the standard, and conditions: what holds, what is not known, hysteresis, delays. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { inOrder, passes, groupsIn, type AlarmLine } from '@/core/alarm/alarmLine.ts';
import { after, ALARM_EVENTS, NORMAL, stateOf, type AlarmEventKind, type AlarmState, type Standing } from '@/core/alarm/alarmState.ts';
import { checkCondition, Delayed, RunningCondition, type AlarmCondition, type SeenTag } from '@/core/alarm/condition.ts';
import { formulaOf } from '@/core/panel/formula.ts';
import type { SceneTag } from '@/core/panel/scene.ts';
import { uuidOf } from '../support/uuidOf.ts';

const PLAIN = { needsAck: true, isLatched: false };
const LATCHED = { needsAck: true, isLatched: true };

function through(events: readonly AlarmEventKind[], manner = PLAIN): AlarmState {
  let standing: Standing = NORMAL;
  for (const [at, kind] of events.entries()) standing = after(standing, { kind, at, until: 1e9 }, manner) ?? standing;
  return stateOf(standing);
}

// IEC 62682:2014 and ISA-18.2-2016, the diagram of alarm states and its table of transitions; letters and ways from memory.
describe('the states of an alarm', () => {
  test.each<[why: string, events: AlarmEventKind[], state: AlarmState]>([
    ['A to B: it comes', ['came'], 'unacked'],
    ['B to C: it is acknowledged', ['came', 'acked'], 'acked'],
    ['C to A: it goes', ['came', 'acked', 'gone'], 'normal'],
    ['B to D: it goes before anybody has acknowledged it', ['came', 'gone'], 'returned'],
    ['D to A: it is acknowledged then', ['came', 'gone', 'acked'], 'normal'],
    ['D to B: it comes again', ['came', 'gone', 'came'], 'unacked'],
    ['C, and again B: it goes and comes', ['came', 'acked', 'gone', 'came'], 'unacked'],
    ['B to G: it is shelved', ['came', 'shelved'], 'shelved'],
    ['A to G', ['shelved'], 'shelved'],
    ['G to B: back from the shelf while it is active', ['came', 'shelved', 'unshelved'], 'unacked'],
    ['G to B: also where it had been acknowledged', ['came', 'acked', 'shelved', 'unshelved'], 'unacked'],
    ['G to A: it went meanwhile', ['came', 'shelved', 'gone', 'unshelved'], 'normal'],
    ['G: it came on the shelf', ['shelved', 'came'], 'shelved'],
    ['G to B: it came on the shelf', ['shelved', 'came', 'unshelved'], 'unacked'],
    ['B to H: suppressed by design', ['came', 'suppressed'], 'suppressed'],
    ['H to B', ['came', 'suppressed', 'unsuppressed'], 'unacked'],
    ['H to A', ['suppressed', 'came', 'gone', 'unsuppressed'], 'normal'],
    ['to I: out of service', ['came', 'out'], 'out'],
    ['I to A', ['came', 'out', 'gone', 'in'], 'normal'],
    ['I to B', ['out', 'came', 'in'], 'unacked'],
    ['I and H: one is over', ['out', 'suppressed', 'came', 'in'], 'suppressed'],
  ])('%s', (_why, events, state) => expect(through(events)).toBe(state));

  test.each<[why: string, events: AlarmEventKind[], state: AlarmState]>([
    ['B to E: it goes, and is held', ['came', 'gone'], 'latchedUnacked'],
    ['E to F: it is acknowledged', ['came', 'gone', 'acked'], 'latchedAcked'],
    ['C to F: it goes when it was acknowledged', ['came', 'acked', 'gone'], 'latchedAcked'],
    ['F to A: it is reset', ['came', 'acked', 'gone', 'reset'], 'normal'],
    ['E is not reset before it is acknowledged', ['came', 'gone', 'reset'], 'latchedUnacked'],
    ['F to B: it comes again', ['came', 'acked', 'gone', 'came'], 'unacked'],
    ['what is active is not reset', ['came', 'acked', 'reset'], 'acked'],
  ])('one that is held: %s', (_why, events, state) => expect(through(events, LATCHED)).toBe(state));

  test('one that nobody has to acknowledge comes and goes', () => {
    const manner = { needsAck: false, isLatched: false };
    expect([through(['came'], manner), through(['came', 'gone'], manner)]).toEqual(['acked', 'normal']);
  });

  test('what is shelved, suppressed or out of service calls for nobody, and is not acknowledged', () => {
    for (const aside of ['shelved', 'suppressed', 'out'] as const) {
      const standing = ['came' as const, aside].reduce((at: Standing, kind) => after(at, { kind, at: 1 }, PLAIN) ?? at, NORMAL);
      expect(after(standing, { kind: 'acked', at: 2 }, PLAIN)).toBeNull();
    }
  });

  test('whatever happens, what is active and told was called for or acknowledged, and nothing is both gone and active', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...ALARM_EVENTS), { maxLength: 40 }), fc.boolean(), (events, isLatched) => {
        let standing: Standing = NORMAL;
        let isActive = false;
        for (const [at, kind] of events.entries()) {
          if (kind === 'came' || kind === 'gone') isActive = kind === 'came';
          const next = after(standing, { kind, at }, { needsAck: true, isLatched });
          if (next === null) continue;
          // Only a person, or what went unseen, takes a call away.
          const [was, is] = [stateOf(standing), stateOf(next)];
          if (was === 'unacked' && (is === 'acked' || is === 'normal')) expect(kind).toBe('acked');
          if (was === 'normal' && is !== 'normal') expect(['came', 'shelved', 'suppressed', 'out']).toContain(kind);
          standing = next;
        }
        expect(standing.isActive).toBe(isActive);
        if (isActive) expect(['unacked', 'acked', 'shelved', 'suppressed', 'out']).toContain(stateOf(standing));
        else expect(['normal', 'returned', 'latchedUnacked', 'latchedAcked', 'shelved', 'suppressed', 'out']).toContain(stateOf(standing));
      }),
    );
  });
});

describe('a condition', () => {
  const [bed, other] = [uuidOf(1), uuidOf(2)];
  const good = (value: SeenTag['value'], more: Partial<SeenTag> = {}): SeenTag => ({ value, isDoubted: false, level: 'good', isWaiting: false, limit: null, why: '', ...more }); // prettier-ignore
  const bad: SeenTag = { value: null, isDoubted: false, level: 'bad', isWaiting: false, limit: null, why: 'no answer' };
  const tag = (id: string): SceneTag | null =>
    id === bed || id === other ? ({ id, name: 'bed', def: { type: { kind: 'real', bits: 32 }, unit: '°C' }, problem: '', canWrite: false } as unknown as SceneTag) : null; // prettier-ignore
  const running = (condition: AlarmCondition, expression: string | null = null, isBeyond = false): RunningCondition => {
    const formula = expression === null ? null : formulaOf(expression, null, tag);
    if (formula && !formula.ok) throw new Error(formula.problem.message);
    return new RunningCondition(condition, bed, { formula: formula?.ok ? formula.value : null, isBeyond });
  };
  const holds = (condition: RunningCondition, ...seen: readonly SeenTag[]): readonly (boolean | null)[] =>
    seen.map((one, at) => condition.next((id) => (id === bed ? one : good(50)), at).holds);

  test('of a bit', () => {
    const bit = running({ kind: 'bit', isOn: true });
    expect(holds(bit, good(true), good(false), bad, good(3))).toEqual([true, false, null, null]);
    expect(holds(running({ kind: 'bit', isOn: false }), good(true), good(false))).toEqual([false, true]);
  });
  test('of a limit: at it counts, and it comes back by the hysteresis', () => {
    const above = { kind: 'limit', side: 'above', limit: 110, hysteresis: 2 } as const;
    expect(holds(running(above), good(109.9), good(110), good(108.1), good(108), good(109.9))).toEqual([false, true, true, false, false]);
    const below = { kind: 'limit', side: 'below', limit: 10, hysteresis: 1 } as const;
    expect(holds(running(below), good(10.1), good(10), good(10.9), good(11))).toEqual([false, true, true, false]);
    // In between after a restart it is what it was.
    expect(holds(running(above, null, true), good(109))).toEqual([true]);
    expect(holds(running(above), good(109))).toEqual([false]);
  });
  test('of a limit that is another tag: a comparison', () => {
    const above = { kind: 'limit', side: 'above', limit: { by: `@${other}` }, hysteresis: 0 } as const;
    expect(holds(running(above, `@${other}`), good(49), good(50), good(51), bad)).toEqual([false, true, true, null]);
  });
  test('of a limit of the tag: beyond the outer one it is beyond the inner one', () => {
    const high = running({ kind: 'ofTag', key: 'high' });
    expect(holds(high, good(1), good(1, { limit: 'high' }), good(1, { limit: 'highHigh' }), good(1, { limit: 'low' }))).toEqual([false, true, true, false]); // prettier-ignore
    expect(holds(running({ kind: 'ofTag', key: 'highHigh' }), good(1, { limit: 'high' }))).toEqual([false]);
  });
  test('of no good value: what was never read is not known, what is uncertain is a value', () => {
    const none = running({ kind: 'noValue' });
    expect(holds(none, { ...bad, isWaiting: true }, good(1), bad, good(1, { level: 'uncertain', isDoubted: true }))).toEqual([null, false, true, false]); // prettier-ignore
  });
  test('of an expression, which is not known where one of its values is not', () => {
    const formula = running({ kind: 'formula', holds: { by: '' } }, `@${bed} > 100 and @${other} > 40`);
    expect(holds(formula, good(101), good(99), bad)).toEqual([true, false, null]);
    expect(formula.next(() => bad, 9)).toEqual({ holds: null, why: 'no answer' });
  });
  test.each<[object, string]>([
    [{ kind: 'limit', side: 'above', limit: NaN, hysteresis: 0 }, 'condition.limit'],
    [{ kind: 'limit', side: 'above', limit: 1, hysteresis: -1 }, 'condition.hysteresis'],
    [{ kind: 'limit', side: 'near', limit: 1, hysteresis: 0 }, 'condition.side'],
    [{ kind: 'bit' }, 'condition.isOn'],
    [{ kind: 'bit', isOn: true, more: 1 }, 'condition.more'],
    [{ kind: 'ofTag', key: 'middle' }, 'condition.key'],
    [{ kind: 'formula' }, 'condition.holds'],
    [{ kind: 'constructor' }, 'condition.kind'],
    [{}, 'condition.kind'],
  ])('%j is refused at %s', (condition, place) => expect(checkCondition(condition)).toMatchObject({ ok: false, problem: { place } }));
});

describe('delays', () => {
  test('what holds long enough comes, what does not is nothing; the end has its own', () => {
    const delayed = new Delayed(1000, 500, false);
    expect(delayed.next(true, 0)).toEqual({ isActive: false, againAt: 1000 });
    expect(delayed.next(false, 900)).toEqual({ isActive: false, againAt: null });
    expect(delayed.next(true, 1000)).toEqual({ isActive: false, againAt: 2000 });
    expect(delayed.next(true, 1999).isActive).toBe(false);
    expect(delayed.next(true, 2000).isActive).toBe(true);
    expect(delayed.next(false, 2100)).toEqual({ isActive: true, againAt: 2600 });
    expect(delayed.next(false, 2600).isActive).toBe(false);
  });
  test('what is not known leaves it as it is, and a delay begins anew', () => {
    const delayed = new Delayed(1000, 0, false);
    delayed.next(true, 0);
    expect(delayed.next(null, 500)).toEqual({ isActive: false, againAt: null });
    expect(delayed.next(true, 1200)).toEqual({ isActive: false, againAt: 2200 });
    expect(new Delayed(0, 0, true).next(null, 0).isActive).toBe(true);
  });
});

test('a list chooses by group and priority; what calls stands first, what is put aside last', () => {
  expect(groupsIn(' Kiln, Rolls ;')).toEqual(['Kiln', 'Rolls']);
  expect(passes({ priority: 'high', group: 'KILN' }, { groups: ['Kiln'], least: 'medium' })).toBe(true);
  expect(passes({ priority: 'low', group: 'Kiln' }, { groups: [], least: 'medium' })).toBe(false);
  expect(passes({ priority: 'critical', group: '' }, { groups: ['Kiln'], least: 'low' })).toBe(false);
  const line = (id: string, state: AlarmState, priority: AlarmLine['priority'], cameAt: number): AlarmLine =>
    ({ id, state, priority, cameAt }) as AlarmLine;
  const lines = [
    line('a', 'shelved', 'critical', 9),
    line('b', 'acked', 'critical', 9),
    line('c', 'unacked', 'low', 1),
    line('d', 'returned', 'high', 1),
    line('e', 'unacked', 'high', 2),
  ];
  expect(inOrder(lines).map(({ id }) => id)).toEqual(['e', 'd', 'c', 'b', 'a']);
});
