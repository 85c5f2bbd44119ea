/** One page for many like things: what stands for what, and what is never shown in the place of something else. */
import { describe, expect, test } from '@jest/globals';
import { newAction } from '@/core/panel/actions.ts';
import { forSubject, namesCountOn, ownMember, savingOf, withSubject, type SubjectChoice } from '@/core/panel/subjects.ts';
import type { Element } from '@/core/project/entities.ts';
import { ENTITY_DEFAULTS } from '@/core/project/entities.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [GAP, GAP_SP, SPEED, LINE, GAP_2, GAP_SP_2] = [1, 2, 3, 4, 5, 6].map(uuidOf) as [string, string, string, string, string, string];
const PATTERN: SubjectChoice = { number: 1, text: '1', isThere: true, tags: new Map([[GAP, GAP], [GAP_SP, GAP_SP], [SPEED, SPEED]]) }; // prettier-ignore
/** It has no speed. */
const SECOND: SubjectChoice = { number: 2, text: '2 {west}', isThere: true, tags: new Map([[GAP, GAP_2], [GAP_SP, GAP_SP_2], [SPEED, null]]) }; // prettier-ignore

const element = (kind: string, tagId: string | null, settings: object = {}, label = ''): Element =>
  ({ ...(ENTITY_DEFAULTS.element as object), id: uuidOf(90), pageId: uuidOf(91), kind, tagId, label, x: 0, y: 0, w: 100, h: 50, settings }) as unknown as Element; // prettier-ignore

describe('an element for another subject', () => {
  test('has its tags in every place: its own, expressions, steps, lists', () => {
    const bar = element('bar', GAP, { target: { by: `@${GAP_SP} + 1` }, visible: { by: `@${LINE} > 0` } });
    expect(forSubject(bar, SECOND)).toMatchObject({
      isMissing: false,
      element: { tagId: GAP_2, settings: { target: { by: `@${GAP_SP_2} + 1` }, visible: { by: `@${LINE} > 0` } } },
    });
    const button = element('button', null, { actions: [newAction('write', { tagId: GAP_SP, value: '1' })] });
    expect(forSubject(button, SECOND).element.settings).toEqual({ actions: [newAction('write', { tagId: GAP_SP_2, value: '1' })] });
    expect(forSubject(element('trend', GAP, { moreTags: [GAP_SP, LINE] }), SECOND).element.settings).toEqual({ moreTags: [GAP_SP_2, LINE] });
  });
  test('is missing where the subject has not all of it: it never shows the value of the pattern', () => {
    expect(forSubject(element('value', SPEED), SECOND).isMissing).toBe(true);
    expect(forSubject(element('bar', GAP, { target: { by: `@${SPEED}` } }), SECOND).isMissing).toBe(true);
    expect(forSubject(element('trend', GAP, { moreTags: [SPEED] }), SECOND).isMissing).toBe(true);
    expect(forSubject(element('text', null, { template: `{@${SPEED}} rpm` }), SECOND).isMissing).toBe(true);
    expect(forSubject(element('text', null, { template: 'Stand' }), { ...SECOND, isThere: false }).isMissing).toBe(true);
    expect(forSubject(element('value', LINE), SECOND).isMissing).toBe(false);
  });
  test('has the name of the subject in its texts, its braces being no places for values', () => {
    const text = element('text', null, { template: 'Stand {subject}, gap {@' + GAP + '}' }, 'Of {subject}');
    expect(forSubject(text, SECOND).element).toMatchObject({ label: 'Of 2 {west}', settings: { template: `Stand 2 {{west}}, gap {@${GAP_2}}` } });
    expect(withSubject('Stand {subject}', SECOND)).toBe('Stand 2 {west}');
    expect(withSubject('Stand {subject}', null)).toBe('Stand –');
  });
  test('of the pattern is the element itself, and the same object every time', () => {
    const value = element('value', GAP);
    expect(forSubject(value, PATTERN).element).toBe(value);
    expect(forSubject(value, SECOND)).toBe(forSubject(value, SECOND));
  });
});

describe('names of members', () => {
  const own = { find: 's1_', put: 's12_', renames: [{ member: 's1_speed', as: null }, { member: 'S1_Gap', as: 'roll gap' }] }; // prettier-ignore
  test('count on, or are said once', () => {
    expect(['s1_feed', 'S1_FEED', 'line', 's1_gap', 's1_speed'].map((member) => ownMember(own, member))).toEqual(['s12_feed', 's12_FEED', 'line', 'roll gap', null]); // prettier-ignore
  });
  test.each([
    [['gap', 'speed'], ['gap', 'speed', 'more'], { find: '', put: '' }],
    [['s1_gap', 's1_speed', 's1_temp_2'], ['s2_gap', 's2_speed', 's2_temp_2'], { find: 's1_', put: 's2_' }],
    [['s9_gap', 's9_speed'], ['s10_gap', 's10_speed'], { find: 's9_', put: 's10_' }],
    [['m01.gap', 'm01.speed'], ['m19.gap', 'm19.speed'], { find: 'm01.', put: 'm19.' }],
    [['s1_gap', 's1_gap_sp', 's1_speed'], ['roll_gap', 's5_gap_sp', 's5_speed'], { find: 's1_', put: 's5_' }],
    // One of two is not more than half.
    [['s1_gap', 's1_speed'], ['s2_gap', 's2_other'], null],
    [['gap', 'speed'], ['bed', 'fan'], null],
  ])('of %j and %j', (pattern, other, expected) => {
    expect(namesCountOn(pattern, new Set(other))).toEqual(expected);
  });
});

test('what one page saves: nineteen like devices with 165 members name 165 tags instead of 3135', () => {
  const ids = Array.from({ length: 165 }, (_, i) => uuidOf(1000 + i));
  const choices = Array.from({ length: 19 }, (_, n): SubjectChoice => ({ number: n, text: '', isThere: true, tags: new Map(ids.map((id, i) => [id, uuidOf(10_000 + n * 200 + i)])) })); // prettier-ignore
  const elements = [...ids.map((id) => element('value', id)), element('value', LINE)];
  expect(savingOf(elements, { choices })).toEqual({ subjects: 19, elements: 166, tags: 165, tagsWithout: 3135 });
});
