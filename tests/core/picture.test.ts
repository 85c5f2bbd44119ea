/** Pictures as they come in: W3C PNG (Third Edition) and SVG 2, and what an SVG from outside may try. */
import { describe, expect, test } from '@jest/globals';
import { crc32, deflateSync } from 'node:zlib';
import { SaxesParser } from 'saxes';
import fc from 'fast-check';
import { MOST_PICTURE_BYTES, readPicture } from '@/core/picture/picture.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (text: string) => {
  const done = readPicture(bytes(text));
  if (!done.ok) throw new Error(`${done.problem.code}: ${done.problem.message}`);
  return { ...done.value, text: new TextDecoder().decode(done.value.bytes) };
};
const code = (file: Uint8Array | string) => {
  const done = readPicture(typeof file === 'string' ? bytes(file) : file);
  return done.ok ? 'taken' : done.problem.code;
};
const svg = (inside: string, root = 'width="40" height="20"') =>
  `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" ${root}>${inside}</svg>`;

/** A chunk with its length and CRC (PNG, 5.3). */
function chunk(name: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
  const frame = Buffer.alloc(8);
  frame.writeUInt32BE(data.length);
  frame.writeUInt32BE(crc32(body), 4);
  return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)]);
}
function png(width: number, height: number): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([8, 0, 0, 0, 0], 8);
  const rows = deflateSync(Buffer.alloc(height * (width + 1)));
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([signature, chunk('IHDR', head), chunk('IDAT', rows), chunk('IEND', Buffer.alloc(0))]);
}

describe('a PNG', () => {
  const whole = png(40, 20);
  test('is kept as it is, with the size that it says', () => {
    const done = readPicture(whole);
    expect(done).toMatchObject({ ok: true, value: { type: 'png', width: 40, height: 20, size: whole.length, removed: [] } });
    expect(done.ok && Buffer.from(done.value.bytes).equals(whole)).toBe(true);
  });
  test('loses what hangs behind its end', () => {
    const done = readPicture(Buffer.concat([whole, Buffer.from('<script>')]));
    expect(done.ok && Buffer.from(done.value.bytes).equals(whole)).toBe(true);
  });
  test('that breaks off anywhere is refused', () => {
    for (let length = 8; length < whole.length; length++) expect(code(whole.subarray(0, length))).toBe('damaged');
  });
  test('of more than a browser should draw is refused', () => {
    expect(code(png(4097, 1))).toBe('size');
    expect(code(Buffer.alloc(MOST_PICTURE_BYTES + 1))).toBe('too-large');
    expect([code(''), code('GIF89a'), code('%PDF-1.7'), code(Buffer.from([0xff, 0xfe, 0]))]).toEqual([
      'empty',
      'no-picture',
      'no-picture',
      'no-picture',
    ]);
  });
});

describe('an SVG', () => {
  test('keeps what draws: shapes, gradients, texts, its own style', () => {
    const { text, removed, width, height } = read(
      svg(
        '<defs><linearGradient id="g"><stop offset="0" stop-color="#123"/></linearGradient></defs><style>.a{fill:url(#g)}</style><g class="a" transform="scale(2)"><path d="M0 0h3z"/><use xlink:href="#g"/><text x="1">Kiln &amp; cooler</text></g>',
        'width="4in" height="25.4mm" viewBox="0 0 40 20"',
      ),
    );
    expect(removed).toEqual([]);
    // CSS Values 4, 6.2: 96 pixels an inch.
    expect([width, height]).toEqual([384, 96]);
    for (const part of ['<linearGradient id="g">', '.a{fill:url(#g)}', 'd="M0 0h3z"', '<use href="#g">', 'Kiln &amp; cooler', 'viewBox="0 0 40 20"'])
      expect(text).toContain(part);
  });
  test.each([
    ['a script', '<script>alert(1)</script>', 'a script'],
    ['a script of an event', '<rect width="1" height="1" onclick="alert(1)" ONLOAD="x"/>', 'a script'],
    ['a foreign object', '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><script>1</script></body></foreignObject>', 'a foreign object'],
    ['a picture from outside', '<image href="http://192.0.2.1/track.png" width="9" height="9"/>', 'a picture inside it'],
    ['a use from outside', '<use xlink:href="http://192.0.2.1/a.svg#x"/>', 'a link out of it'],
    ['a link', '<a href="javascript:alert(1)"><rect width="1" height="1"/></a>', 'a link'],
    ['a fill from outside', '<rect fill="url( \'http://192.0.2.1/a#b\')" width="1" height="1"/>', 'a link out of it'],
    ['a style from outside', '<style>@import "http://192.0.2.1/a.css";</style>', 'a style sheet that leads out'],
    ['a font from outside', '<style>text{background:url(//192.0.2.1/f)}</style>', 'a style sheet that leads out'],
    ['a hidden address', '<style>text{fill:u\\72l(http://192.0.2.1)}</style>', 'a style sheet that leads out'],
    ['an animation', '<rect width="1" height="1"><set attributeName="href" to="javascript:alert(1)"/></rect>', 'an animation'],
    ['data as a link', '<use href="data:image/svg+xml;base64,PHN2Zy8+"/>', 'a link out of it'],
  ])('loses %s, and says so', (_what, inside, told) => {
    const { text, removed } = read(svg(inside));
    expect(removed).toContain(told);
    expect(text).not.toMatch(/script|192\.0\.2\.1|foreign|javascript|onclick|import|data:/i);
  });
  test('keeps what stood in a link', () => {
    expect(read(svg('<a href="http://192.0.2.1"><rect width="7" height="1"/></a>')).text).toContain('<rect width="7" height="1"></rect>');
  });
  test('loses the notes of a drawing program without a word', () => {
    const notes =
      '<metadata><x/></metadata><e:view xmlns:e="http://example.org/editor"><e:grid/></e:view><rect e:id="1" xmlns:e="http://example.org/editor" width="1" height="1"/>';
    expect(read(svg(notes))).toMatchObject({ removed: [] });
    expect(read(svg(notes)).text).not.toContain('example');
  });
  test('that would be drawn endlessly is refused', () => {
    const laughs = Array.from({ length: 10 }, (_, i) => `<g id="l${i}">${`<use href="#l${i + 1}"/>`.repeat(10)}</g>`).join('');
    expect(code(svg(`<defs>${laughs}<rect id="l10" width="1" height="1"/></defs><use href="#l0"/>`))).toBe('endless');
    expect(code(svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'))).toBe('endless');
    expect(code(`<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>${svg('<text>&b;</text>').slice(21)}`)).toBe('entities');
    expect(code(svg('<g>'.repeat(200) + '</g>'.repeat(200)))).toBe('deep');
    expect(code(svg('<rect/>'.repeat(30_000)))).toBe('too-much');
  });
  test('that is damaged, is none, or says no size is refused', () => {
    expect([code(svg('<rect>')), code('<svg width="1" height="1"/>'), code('<html><svg/></html>'), code(svg('', '')), code(svg('', 'width="100%" height="9"'))]).toEqual(['damaged', 'no-picture', 'no-picture', 'size', 'size']); // prettier-ignore
  });

  /** What may stand in one, good and bad, however it is put together. */
  const part = fc.letrec((tie) => ({
    text: fc.string({ unit: 'binary', maxLength: 8 }).map((text) => text.replace(/[^\t\n\u0020-\ud7ff]/g, '').replace(/[<&]|\]\]>/g, '')),
    node: fc
      .tuple(
        fc.constantFrom('g', 'rect', 'script', 'use', 'style', 'a', 'image', 'foreignObject', 'set', 'text', 'defs'),
        fc.dictionary(
          fc.constantFrom('id', 'href', 'xlink:href', 'onload', 'style', 'fill', 'x'),
          fc.constantFrom('#a', 'a', 'http://192.0.2.1/', 'url(#a)', 'url(//192.0.2.1)', 'javascript:1', '3', 'a&quot;&gt;&lt;script&gt;'),
        ),
        fc.array(fc.oneof({ depthSize: 'small' }, tie('text'), tie('node')), { maxLength: 3 }),
      )
      .map(([name, attributes, inside]) => `<${name}${Object.entries(attributes).map(([key, value]) => ` ${key}="${value}"`).join('')}>${inside.join('')}</${name}>`), // prettier-ignore
  })).node;

  test('is the same when it comes again, and nothing in it leads out', () => {
    fc.assert(
      fc.property(part, (inside) => {
        const once = readPicture(bytes(svg(inside)));
        if (!once.ok) return expect(once.problem.code).toBe('endless');
        const text = new TextDecoder().decode(once.value.bytes);
        const parser = new SaxesParser({ xmlns: true });
        parser.on('opentag', ({ local, attributes }) => {
          expect(['svg', 'g', 'rect', 'use', 'style', 'text', 'defs']).toContain(local);
          for (const { name, value } of Object.values(attributes)) {
            expect(name).not.toMatch(/^on/);
            if (name === 'href') expect(value).toMatch(/^#/);
            else expect(value).not.toMatch(/url\(\/|javascript/);
          }
        });
        parser.write(text).close();
        expect(readPicture(once.value.bytes)).toMatchObject({ ok: true, value: { digest: once.value.digest, removed: [] } });
      }),
    );
  });
});
