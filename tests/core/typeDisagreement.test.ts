/** Where a tag is read as another type than its list says: what is told, and what is none. Ranges and widths as in IEC 61131-3, table of elementary data types. */
import { expect, test } from '@jest/globals';
import { parseDataType } from '@/core/value/dataType.ts';
import { typeDisagreement } from '@/core/value/typeDisagreement.ts';

function told(listed: string, read: string): string | null {
  const [a, b] = [parseDataType(listed), parseDataType(read)];
  if (!a.ok || !b.ok) throw new Error(`${listed} or ${read}`);
  return typeDisagreement(a.value, b.value);
}

test.each([
  ['INT', 'UINT', /below zero are read as 65535/],
  ['UINT', 'INT', /from 32768 on are read as numbers below zero/],
  ['UDINT', 'DINT', /from 2147483648 on/],
  ['TIME', 'UDINT', /duration, and shown as a plain count/],
  ['DATE_AND_TIME', 'UDINT', /date or time/],
  ['DINT', 'INT', /4 bytes, and 2 bytes are read: larger values are cut off/],
  ['INT', 'REAL', /2 bytes, and 4 bytes are read/],
  ['REAL', 'DINT', /number with decimals is read as a whole number/],
  ['DINT', 'REAL', /whole number is read as the pattern/],
  ['STRING(20)', 'STRING(10)', /room for 20 characters, and 10 are read/],
  ['STRING(20)', 'WSTRING(20)', /another width/],
  ['STRING(4)', 'DWORD', /a text/],
  ['BOOL', 'INT', /another value/],
  ['UDINT bcd', 'UDINT mod10000', /in another way/],
])('%s read as %s', (listed, read, words) => {
  expect(told(listed, read)).toMatch(words);
});

// A tag that says more than its list is no mistake: lists give digits, flags and times as words.
test.each([
  ['WORD', 'UINT'],
  ['WORD', 'INT'],
  ['DWORD', 'REAL'],
  ['UINT', 'UINT bcd'],
  ['UDINT', 'TIME'],
  ['WORD', 'UINT mask 16#00F0'],
  ['STRING(20)', 'STRING(20) length-word'],
  ['STRING(10)', 'STRING(20)'],
  ['INT', 'INT'],
  ['UINT', 'WORD'],
])('%s read as %s is none', (listed, read) => {
  expect(told(listed, read)).toBeNull();
});
