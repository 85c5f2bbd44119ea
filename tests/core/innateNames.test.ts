/** Names that every object of JavaScript answers to are words like any other: nothing is looked up by them by accident. */
import { describe, expect, test } from '@jest/globals';
import { parseExpression } from '@/core/expression/parse.ts';
import { harmlessSvg } from '@/core/picture/svg.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import { durationScale } from '@/core/scaling/durationScale.ts';
import { parsePlcOpen } from '@/core/taglist/plcopen.ts';
import { readTypeWord } from '@/core/taglist/typeWords.ts';
import { characterSet } from '@/core/value/characters.ts';
import { parseDataType } from '@/core/value/dataType.ts';

const INNATE = [...Object.getOwnPropertyNames(Object.prototype), 'prototype', 'length', 'name'];
const plain = INNATE.filter((name) => /^[a-z]+$/i.test(name));

describe('names that every object has', () => {
  test.each(INNATE)('%s is a group like any other', (name) => {
    const { ids, changes } = groupsNamed({ groupNamed: () => null }, null, [name]);
    expect(changes).toHaveLength(1);
    expect(ids.get(name)).toBe(changes[0]?.id);
  });

  test.each(INNATE)('%s is no unit of time, no character set and no data type', (name) => {
    const time = parseDataType('TIME');
    if (!time.ok) throw new Error('no TIME');
    const scale = durationScale(time.value, name);
    expect(scale.ok ? 'taken' : scale.problem.message).toContain(`“${name}” is not a unit of time`);
    expect(characterSet(name)).toBeNull();
    expect(parseDataType(name).ok || readTypeWord(name).ok || parseDataType(`STRING(10) ${name}`).ok).toBe(false);
  });

  test.each(plain)('%s is no function of an expression, and means no other', (name) => {
    const read = parseExpression(`${name}(1)`, () => null);
    if (read.ok) throw new Error('taken');
    expect(read.problem.message).toContain('no function');
    expect(read.problem.remedy ?? '').not.toContain('native code');
  });

  test.each(plain)('<%s/> of a drawing or a declaration is dropped by its name', (name) => {
    const svg = harmlessSvg(`<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"><${name}/></svg>`);
    expect(svg.ok ? svg.value.removed : []).toEqual([`<${name}>`]);
    const xml = `<project xmlns="http://www.plcopen.org/xml/tc6_0201"><globalVars><variable name="a"><type><${name}/></type></variable></globalVars></project>`;
    expect(JSON.stringify(parsePlcOpen(xml))).not.toContain('native code');
  });
});
