import { describe, expect, test } from '@jest/globals';
import { formatArea, parseAddress } from '@/core/modbus/address.ts';
import { readList } from '@/core/taglist/readList.ts';
import { understandRows, type UnderstoodRow } from '@/core/taglist/understand.ts';

function understand(text: string, taken: readonly string[] = []): readonly UnderstoodRow[] {
  return understandRows(readList(text), {
    parseAddress: (address) => {
      const parsed = parseAddress(address, 1);
      return parsed.ok
        ? { ok: true, value: { canonical: formatArea(parsed.value), writable: parsed.value.area === 'HR' || parsed.value.area === 'CO' } }
        : parsed;
    },
    isNameTaken: (name) => taken.includes(name),
  });
}
const problemsOf = (text: string): string[] =>
  [...readList(text).problems, ...understand(text).flatMap((r) => r.problems)].map((p) => `${p.place}: ${p.code}`);

describe('a tag list from a file', () => {
  test('quoted cells keep separators, quotes and line breaks (RFC 4180, 2.5 to 2.7)', () => {
    const rows = understand('name,address,type,comment\r\nbed_temp,40018,REAL,"Bed, ""mid""\r\nprobe"\r\n');
    expect(rows[0]?.tag).toMatchObject({ name: 'bed_temp', canonical: 'HR17', type: 'REAL', comment: 'Bed, "mid"\r\nprobe' });
  });
  test.each([[';'], ['\t'], ['|']])('columns parted by %j are found', (separator) => {
    expect(
      understand(['Tag Name;Address;Data type', 'a;40001;INT', 'b;HR5;DINT'].join('\n').replaceAll(';', separator)).map((r) => r.tag?.canonical),
    ).toEqual(['HR0', 'HR5']);
  });
  test('a mark at the start, a note in a heading and empty lines do not disturb', () => {
    expect(understand('\uFEFFName,Address,Type,Low [°C],High [°C]\n\na,40001,INT,-5,9.5\n\n')[0]?.tag).toMatchObject({
      rangeLow: -5,
      rangeHigh: 9.5,
      row: 3,
    });
  });
  test.each([
    ['nothing at all', '', ['row 1: empty']],
    ['only headings', 'name,address,type\n', ['row 2: no-rows']],
    ['a column missing', 'name,address\na,40001\n', ['row 1: missing-column', 'row 2, column “type”: unknown-type']],
    ['a column twice', 'name,tag,address,type\na,b,40001,INT\n', ['row 1, column 2: column-twice']],
    ['an unknown type', 'name,address,type\na,40001,INT\nb,40002,FLOATY\n', ['row 3, column 3 (type): unknown-type']],
    ['a bad address', 'name,address,type\na,99999,INT\n', ['row 2, column 2 (address): address-form']],
    ['a name twice, by case too', 'name,address,type\nBed,40001,INT\nbed,40002,INT\n', ['row 3, column 1 (name): duplicate-name']],
    ['a quote never closed', 'name,address,type\na,40001,"INT\n', ['row 2, column 3: quotes']],
    ['a quote inside a cell', 'name,address,type\na,"40"001,INT\n', ['row 2, column 2: quotes', 'row 2, column 3 (type): unknown-type']],
    ['a row with too many cells', 'name,address,type\na,40001,INT,x\n', ['row 2, column 4: surplus-cells']],
    ['a decimal comma in a range', 'name;address;type;low;high\na;40001;INT;0,5;9\n', ['row 2, column 4 (low): number']],
    [
      'a range of one end',
      'name,address,type,low,high\na,40001,INT,1,\n',
      ['row 2, column 4 (low): range', 'row 2, column 5 (high): range'].slice(1),
    ],
    ['an order of another width', 'name,address,type,order\na,40001,INT,CDAB\n', ['row 2, column 4 (order): order-unfit']],
    ['write access to an input', 'name,address,type,access\na,30001,INT,RW\n', ['row 2, column 4 (access): read-only']],
    ['everything wrong in one row', 'name,address,type\n,77,X\n', ['row 2, column 1 (name): name-missing', 'row 2, column 3 (type): unknown-type']],
  ])('%s is told with its place', (_what, text, expected) => {
    expect(problemsOf(text)).toEqual(expected);
  });
  test('a name that the project has already is told', () => {
    expect(understand('name,address,type\na,40001,INT\n', ['a'])[0]?.problems[0]).toMatchObject({
      code: 'name-taken',
      place: 'row 2, column 1 (name)',
    });
  });
  test('a file that is no text is refused', () => {
    expect(readList('PK\u0003\u0004\u0000\u0000').problems[0]?.code).toBe('not-text');
    expect(readList('x'.repeat(8_000_001)).problems[0]?.code).toBe('too-large');
  });
});
