import { FORMULA, withoutGuard } from '@/core/csvGuard.ts';
import { describe, expect, test } from '@jest/globals';
import { notation } from '@/drivers/modbus/notation.ts';
import iconv from 'iconv-lite';
import { fitsPattern, isChosen } from '@/core/taglist/choose.ts';
import { accentedLines, decodeText } from '@/services/lists/decodeText.ts';
import { ENCODINGS, type Encoding } from '@/core/taglist/written.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { understandRows, type UnderstoodRow } from '@/core/taglist/understand.ts';

function understand(text: string, taken: readonly string[] = []): readonly UnderstoodRow[] {
  return understandRows(readDelimited(text), {
    parseAddress: (address, type) => notation.parse(address, type, { countingBase: 1 }),
    isNameTaken: (name) => taken.includes(name),
  });
}
const problemsOf = (text: string): string[] =>
  [...readDelimited(text).problems, ...understand(text).flatMap((r) => r.problems)].map((p) => `${p.place}: ${p.code}`);

describe('a tag list from a file', () => {
  test('quoted cells keep separators and quotes (RFC 4180, 2.5 to 2.7); a line break becomes a space, since texts have one line', () => {
    const rows = understand('name,address,type,comment\r\nbed_temp,40018,REAL,"Bed, ""mid""\r\nprobe"\r\n');
    expect(rows[0]?.tag).toMatchObject({ name: 'bed_temp', canonical: 'HR17', type: 'REAL', comment: 'Bed, "mid" probe' });
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
    ['a column missing', 'name,type\na,INT\n', ['row 1: missing-column']],
    ['a column twice', 'name,tag,address,type\na,b,40001,INT\n', ['row 1, column 2: column-twice']],
    ['an unknown type', 'name,address,type\na,40001,INT\nb,40002,FLOATY\n', ['row 3, column 3 (type): unknown-type']],
    ['a bad address', 'name,address,type\na,99999,INT\n', ['row 2, column 2 (address): address-form']],
    ['a name twice, by case too', 'name,address,type\nBed,40001,INT\nbed,40002,INT\n', ['row 3, column 1 (name): duplicate-name']],
    ['a quote never closed', 'name,address,type\na,40001,"INT\n', ['row 2, column 3: quotes']],
    ['a quote inside a cell', 'name,address,type\na,"40"001,INT\n', ['row 2, column 2: quotes', 'row 2, column 3 (type): unknown-type']],
    ['a row with too many cells', 'name,address,type\na,40001,INT,x\n', ['row 2, column 4: surplus-cells']],
    [
      'a decimal comma beside a decimal point',
      'name;address;type;low;high\na;40001;INT;0,5;9\nb;40002;INT;0.5;9\n',
      ['row 2, column 4 (low): number'],
    ],
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
    expect(readDelimited('PK\u0003\u0004\u0000\u0000').problems[0]?.code).toBe('not-text');
    expect(readDelimited('x'.repeat(200_000_001)).problems[0]?.code).toBe('too-large');
  });

  test.each([
    ['German', 'Bezeichner;Adresse;Datentyp;Einheit;Kommentar', 'name address type unit comment'],
    ['French', 'Nom;Registre;Type de données;Unité;Commentaire', 'name address type unit comment'],
    ['Spanish', 'Nombre;Dirección;Tipo de dato;Unidad;Descripción', 'name address type unit comment'],
    ['Italian', 'Nome;Indirizzo;Tipo;Unità;Descrizione', 'name address type unit comment'],
    ['Polish', 'Nazwa;Adres;Typ danych;Jednostka;Opis', 'name address type unit comment'],
    ['Japanese', '変数名;アドレス;データ型;単位;コメント', 'name address type unit comment'],
    ['Chinese', '变量名;地址;数据类型;单位;注释', 'name address type unit comment'],
  ])('headings are understood in %s', (_language, header, keys) => {
    const list = readDelimited(`${header}\na;40001;INT;°C;x\n`);
    expect([...list.columns.byKey.keys()].join(' ')).toBe(keys);
    expect(list.columns.guesses.every((g) => g.why === 'heading' && g.confidence > 0.9)).toBe(true);
  });
  test('headings may stand below a title, and rows are counted from the first line of the file', () => {
    const rows = understand('Export of line 2;;\n;;\nName;Address;Type\na;40001;INT\nb;40002;NOPE\n');
    expect(rows.map((r) => [r.row, r.tag?.name, r.problems[0]?.place])).toEqual([
      [4, 'a', undefined],
      [5, undefined, 'row 5, column 3 (Type)'],
    ]);
  });
  test('without headings the contents say what a column is, and how sure that is', () => {
    const list = readDelimited('motor_current,40001,INT\nmotor_speed,40002,UINT\ngap,40003,REAL\n');
    expect(list.columns.headerAt).toBe(-1);
    expect([...list.columns.byKey].sort((a, b) => a[1] - b[1]).map(([key]) => key)).toEqual(['name', 'address', 'type']);
    expect(list.columns.guesses.every((g) => g.why === 'contents' && g.confidence <= 0.9)).toBe(true);
    expect(list.rows).toHaveLength(3);
  });
  test('what the engineer chose counts, whatever the headings say', () => {
    const list = readDelimited('Name,Tag text,Address,Type\nx,bed,40001,INT\n', { headerAt: 0, columns: ['', 'name', 'address', 'type'] });
    expect(list.problems).toEqual([]);
    expect(list.rows[0]?.cells).toMatchObject({ name: 'bed', address: '40001' });
  });
  test('a decimal comma is one where no number has a point', () => {
    expect(understand('name;address;type;low;high\na;40001;INT;0,5;9\n')[0]?.tag).toMatchObject({ rangeLow: 0.5, rangeHigh: 9 });
  });
  test('without a type a bit is a BOOL, and a word has a width alone', () => {
    const [bit, word] = understand('name,address\na,CO3\nb,40001\n');
    expect([bit?.tag?.type, bit?.notes]).toEqual(['BOOL', []]);
    expect([word?.tag?.type, word?.notes[0]]).toEqual(['WORD', expect.stringContaining('not confirmed')]);
  });
  test('a row without an address is kept, and said to have none', () => {
    expect(understand('name,address,type\na,,INT\n')[0]).toMatchObject({ problems: [], tag: { address: '', canonical: '' } });
  });
  test('a text takes its length from a column of its own; raw and engineering ranges make a scale', () => {
    const [recipe, level] = understand(
      'name,address,type,length,raw low,raw high,low,high\nrecipe,40001,STRING,20,,,,\nlevel,40100,INT,,0,27648,0,150\n',
    );
    expect(recipe?.tag?.type).toBe('STRING(20)');
    expect(level?.tag).toMatchObject({ scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 }, rangeLow: 0, rangeHigh: 150 });
  });
  test('names that break the rules are adapted, and it is told', () => {
    const long = `Line2.${'Very'.repeat(20)}.Long`;
    const [broken, cut] = understand(`name,address,type\n"two\nlines",40001,INT\n${long},40002,INT\n`);
    expect([broken?.tag?.name, broken?.tag?.listName]).toEqual(['two lines', 'two lines']);
    expect(cut?.tag?.name).toHaveLength(80);
    expect([cut?.tag?.name.endsWith('.Long'), cut?.tag?.listName, cut?.notes[0]]).toEqual([true, long, expect.stringContaining('80 characters')]);
  });
});

describe('choosing by patterns', () => {
  test.each([
    ['*', 'anything', true],
    ['Line2.*', 'line2.motor', true],
    ['Line2.*', 'Line20', false],
    ['*_tmp', 'x_tmp', true],
    ['*_tmp', 'x_tmp1', false],
    ['Stand?.Gap', 'Stand3.Gap', true],
    ['Stand?.Gap', 'Stand12.Gap', false],
    ['a*b*c', 'aXbXbc', true],
    ['', '', true],
  ])('%s and %s: %s', (pattern, name, fits) => {
    expect(fitsPattern(pattern, name)).toBe(fits);
  });
  test('a pattern made to take long does not', () => {
    const begun = performance.now();
    expect(fitsPattern(`${'*a'.repeat(100)}b`, 'a'.repeat(400))).toBe(false);
    expect(performance.now() - begun).toBeLessThan(200);
  });
  test('one must fit, none of the others may, and only what is marked where that is asked', () => {
    const rule = { include: ['Line2.*'], exclude: ['*_tmp'], onlyForPanels: true };
    const chosen = (listName: string, isForPanel = true): boolean => isChosen(rule, { listName, isForPanel, group: '', within: [] });
    expect([chosen('Line2.a'), chosen('Line2.a_tmp'), chosen('Line1.a'), chosen('Line2.a', false)]).toEqual([true, false, false, false]);
  });
});

describe('the encoding of a file', () => {
  const words: Readonly<Partial<Record<Encoding, string>>> = {
    'utf-8': 'Größe, température, 温度',
    'utf-16le': 'Größe, température, 温度 of the bed, and some more letters',
    'utf-16be': 'Größe, température, 温度 of the bed, and some more letters',
    'windows-1252': 'Größe “Bettwärme”, température 5 €',
    'iso-8859-15': 'Größe, cœur, 5 €',
    'windows-1250': 'Teplota pece, průtok, žár',
    'iso-8859-2': 'Temperatura łoża, ciśnienie',
    'windows-1251': 'Температура слоя',
    'iso-8859-5': 'Температура слоя',
    'koi8-r': 'Температура слоя',
    'windows-1253': 'Θερμοκρασία',
    'iso-8859-7': 'Θερμοκρασία',
    'windows-1254': 'Sıcaklık değeri, ışık',
    'windows-1255': 'טמפרטורה',
    'windows-1256': 'درجة الحرارة',
    'windows-1257': 'Temperatūra, šiluma',
    shift_jis: '温度センサー, 速度',
    'euc-jp': '温度センサー, 速度',
    gb18030: '温度传感器，速度',
    big5: '溫度感測器，速度',
    'euc-kr': '온도 센서',
  };
  // The outside: the package's tables make and read the bytes, the platform's decoder (WHATWG Encoding) reads them too.
  test.each(ENCODINGS.map(([id]) => id))('%s is read letter by letter, as the platform reads it', (encoding) => {
    const text = words[encoding] ?? '';
    expect(text).not.toBe('');
    const bytes = new Uint8Array(iconv.encode(text, encoding));
    expect(decodeText(bytes, encoding)).toMatchObject({ ok: true, value: { text, confidence: 1 } });
    // Node 20 reads Windows-1252 as ISO-8859-1: there the published table stands in (80 is €, 93 and 94 are quotes).
    if (encoding !== 'windows-1252') expect(new TextDecoder(encoding, { fatal: true }).decode(bytes)).toBe(text);
    else expect([...bytes].filter((b) => b >= 0x80 && b < 0xa0)).toEqual([0x93, 0x94, 0x80]);
  });
  test.each([
    ['utf-8 with a mark', iconv.encode(`\uFEFF${words['utf-8'] ?? ''}`, 'utf-8'), 'utf-8'],
    ['utf-16le with a mark', iconv.encode(words['utf-16le'] ?? '', 'utf-16le', { addBOM: true }), 'utf-16le'],
    ['utf-16be with a mark', iconv.encode(words['utf-16be'] ?? '', 'utf-16be', { addBOM: true }), 'utf-16be'],
    ['utf-16le without', iconv.encode('name,address,type and Größe', 'utf-16le'), 'utf-16le'],
    ['utf-16be without', iconv.encode('name,address,type and Größe', 'utf-16be'), 'utf-16be'],
    ['utf-8 without', iconv.encode(words['utf-8'] ?? '', 'utf-8'), 'utf-8'],
    [
      'Windows-1252',
      iconv.encode('name;comment\nbed;Größe über dem Ofen für die Kühlung\nfan;Lüfter läuft rückwärts\n', 'windows-1252'),
      'windows-1252',
    ],
    ['Shift-JIS', iconv.encode('name,comment\nbed,キルンの温度センサーの値です\nfan,ファンの速度を設定します\n', 'shift_jis'), 'shift_jis'],
    ['GBK', iconv.encode('name,comment\nbed,温度传感器的数值显示在操作面板上\nfan,风机速度设定值\n', 'gbk'), 'gb18030'],
    ['Windows-1251', iconv.encode('name;comment\nbed;Температура слоя на входе печи\nfan;Скорость вентилятора\n', 'windows-1251'), 'windows-1251'],
  ])('%s is found', (_what, bytes, encoding) => {
    const decoded = decodeText(new Uint8Array(bytes), null);
    expect(decoded).toMatchObject({ ok: true, value: { encoding } });
  });
  // Short lists as engineers have them: the bytes are made by the package's tables, read back letter by letter above.
  const short: readonly (readonly [string, string, Encoding])[] = [
    ['only °C', 'name;address;unit\nbed_temp;40001;°C\nair_temp;40002;°C\n', 'windows-1252'],
    ['only °', 'name,address,unit\nangle,40001,°\n', 'windows-1252'],
    ['only µm', 'name;address;unit\ngap;40001;µm\n', 'windows-1252'],
    ['°C after a letter beside it', 'name;comment\na;Temp. in °C of the bed\nb;80°C max\n', 'windows-1252'],
    ['m³/h', 'name;unit\nflow;m³/h\nspeed;m/s²\n', 'windows-1252'],
    ['±', 'name;comment\na;±10 V\n', 'windows-1252'],
    ['Ø and °', 'name;comment\na;Ø 80 mm, 45°\n', 'windows-1252'],
    ['one German word', 'name;comment\na;Lüfter\n', 'windows-1252'],
    ['German with °C', 'name;comment;unit\na;Kühlwasser Rücklauf;°C\n', 'windows-1252'],
    ['French', 'name;comment\na;Température du four à granulés\n', 'windows-1252'],
    ['Spanish', 'name;comment\na;Presión de vapor, señal analógica\n', 'windows-1252'],
    ['Polish', 'name;comment\na;Prędkość wentylatora\nb;Ciśnienie pary\n', 'windows-1250'],
    ['one Polish word', 'name;comment\na;Średnia temperatura łoża\n', 'windows-1250'],
    ['Czech', 'name;comment\na;Měření teploty\nb;Průtok páry\n', 'windows-1250'],
    ['Russian', 'name;comment\na;Температура\n', 'windows-1251'],
    ['Russian in KOI8', 'name;comment\na;Температура слоя\n', 'koi8-r'],
    ['Russian with °C', 'name;comment\na;Темп. слоя, °C\nb;Давление\n', 'windows-1251'],
    ['Greek', 'name;comment\na;Θερμοκρασία\n', 'windows-1253'],
    ['Turkish', 'name;comment\na;Sıcaklık değeri\n', 'windows-1254'],
    ['Chinese, two words', 'name;comment\na;炉膛温度\nb;风机速度\n', 'gb18030'],
    ['Chinese with letters', 'name;comment\na;PT100温度传感器\n', 'gb18030'],
    ['traditional Chinese', 'name;comment\na;感測器溫度設定\n', 'big5'],
    ['Japanese, EUC', 'name;comment\na;温度センサー\n', 'euc-jp'],
    ['Japanese, Shift-JIS', 'name;comment\na;温度センサー\nb;ファン速度\n', 'shift_jis'],
    ['Korean', 'name;comment\na;온도 센서\n', 'euc-kr'],
  ];
  test.each(short)('%s in a short list is found', (_what, text, encoding) => {
    const decoded = decodeText(new Uint8Array(iconv.encode(text, encoding)), null);
    expect(decoded).toMatchObject({ ok: true, value: { text } });
    expect(decoded.ok && decoded.value.encoding).toBe(encoding);
  });
  test('where two readings fit alike the confidence is low, so that the engineer is asked', () => {
    const bytes = new Uint8Array(iconv.encode('name;comment\na;温度\n', 'gb18030'));
    const decoded = decodeText(bytes, null);
    expect(decoded.ok && decoded.value.confidence).toBeLessThan(0.7);
  });
  test('a wrong one is told, not read as something else', () => {
    expect(decodeText(new Uint8Array(iconv.encode('Größe', 'windows-1252')), 'utf-8')).toMatchObject({ ok: false, problem: { code: 'encoding' } });
    expect(decodeText(Uint8Array.of(80, 75, 3, 4, 0, 0, 0, 9, 1, 2), null).ok).toBe(false);
  });
  test('lines with letters beyond ASCII are shown to see by', () => {
    expect(accentedLines('a\nGröße\nb\n温度\n', 5)).toEqual(['Größe', '温度']);
  });
});

// OWASP, CSV Injection (from memory).
test('what a spreadsheet would take for a formula is guarded, numbers are not, and all comes back the same', () => {
  const guarded = ['=1+1', '@a', '+cmd|x', '+1', '-1+cmd|x', '-a', '+', '-', '\tx', "'=1", "''-5", "'-5", '-1e', '-1.5.2'];
  const plain = ['-1', '-.5', '-1e-3', '5', 'a', "'a", 'a=1'];
  expect([guarded.filter((text) => !FORMULA.test(text)), plain.filter((text) => FORMULA.test(text))]).toEqual([[], []]);
  const out = (text: string): string => (FORMULA.test(text) ? `'${text}` : text);
  expect([...guarded, ...plain].map((text) => withoutGuard(out(text)))).toEqual([...guarded, ...plain]);
});
