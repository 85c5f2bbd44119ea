import { describe, expect, test } from '@jest/globals';
import { strToU8, unzipSync, zipSync } from 'fflate';
import fc from 'fast-check';
import { packing, unpackFiles, type ArchiveKind } from '@/core/projectFile/archive.ts';
import { compareProject, readProjectFile, writingProjectFile, type FiledProject } from '@/core/projectFile/projectFile.ts';
import { EQUAL } from '@/core/project/confirm.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { writeList } from '@/core/taglist/writeList.ts';
import { newPoint, withPoint } from '@/core/project/tagSource.ts';
import { uuidOf } from '../support/uuidOf.ts';

const whole = (parts: Iterable<Uint8Array>) => new Uint8Array(Buffer.concat([...parts]));
const packTexts = (texts: Readonly<Record<string, string>>, kind: ArchiveKind) => {
  const files = Object.entries(texts).map(([name, text]) => [name, [text]] as const);
  return whole(packing(files, kind));
};
const writeProjectFile = (of: FiledProject, at: string) => whole(writingProjectFile(of, at));

const KIND: ArchiveKind = { format: 'test', version: 1, allowed: /^(a|b)\.txt$/, binary: /^$/ };
const problem = (zip: Uint8Array, kind = KIND): string => {
  const done = unpackFiles(zip, kind);
  return done.ok ? 'taken' : done.problem.code;
};
const manifest = (files: Record<string, string>, version = 1): string => JSON.stringify({ format: 'test', version, files });

// OWASP ASVS 4.0.3, 12.1 (file upload) and 12.3 (file execution): sizes, counts and names from outside are not trusted.
describe('an archive from outside', () => {
  test('comes back as it was packed', () => {
    fc.assert(
      fc.property(fc.string(), fc.string({ unit: 'grapheme' }), (a, b) => {
        const texts = { 'a.txt': a, 'b.txt': b };
        expect(unpackFiles(packTexts(texts, KIND), KIND)).toEqual({ ok: true, value: { texts, binaries: {} } });
      }),
    );
  });
  test('that would unpack to far more than it is, is refused before it is unpacked', () => {
    const bomb = zipSync({ 'a.txt': [new Uint8Array(1_000_000), { level: 9 }] });
    // The size that its directory states for the file is made 300 MB.
    stateSizes(bomb, 300_000_000);
    expect(problem(bomb)).toBe('bomb');
  });
  test('whose directory claims billions of files is not walked to its end', () => {
    const zip = zipSync({ 'a.txt': strToU8('x') });
    const view = new DataView(zip.buffer);
    const end = zip.length - 22;
    view.setUint16(end + 8, 0xffff, true);
    view.setUint16(end + 10, 0xffff, true);
    const begun = performance.now();
    expect(problem(zip)).not.toBe('taken');
    expect(performance.now() - begun).toBeLessThan(2000);
  });
  test('that lies about its sizes does not become larger than it says', () => {
    const zip = zipSync({ 'a.txt': [new Uint8Array(1_000_000), { level: 9 }], 'manifest.json': strToU8(manifest({ 'a.txt': '' })) });
    stateSizes(zip, 10);
    expect(problem(zip)).not.toBe('taken');
  });
  test('with more files than any project has is refused', () => {
    const many = zipSync(Object.fromEntries(Array.from({ length: 2100 }, (_, i) => [`x${i}`, new Uint8Array(0)])));
    expect(['bomb', 'name']).toContain(problem(many));
  });
  test.each(['../a.txt', '/a.txt', 'C:\\a.txt', 'lists/../../a.txt', 'A.TXT', 'a.txt/'])('with a file named %s is refused', (name) => {
    expect(problem(zipSync({ [name]: strToU8('x'), 'manifest.json': strToU8(manifest({})) }))).toBe('name');
  });
  test('of a newer version, of another program, or damaged is named as such', () => {
    expect(problem(zipSync({ 'manifest.json': strToU8(manifest({}, 2)) }))).toBe('newer');
    expect(problem(zipSync({ 'manifest.json': strToU8('{"format":"other"}') }))).toBe('not-ours');
    expect(problem(zipSync({ 'a.txt': strToU8('x') }))).toBe('not-ours');
    expect(problem(new Uint8Array(0))).toBe('empty');
    expect(problem(strToU8('no zip at all'))).toBe('not-zip');
  });
  test('whose text was edited, or is missing, is refused: a changed digit is never taken', () => {
    const packed = packTexts({ 'a.txt': '1234' }, KIND);
    const edited = zipSync({ 'a.txt': strToU8('1235'), 'manifest.json': manifestOf(packed) });
    expect(problem(edited)).toBe('damaged');
    expect(problem(zipSync({ 'manifest.json': manifestOf(packed) }))).toBe('damaged');
  });
  test('with random bytes changed is refused or comes back whole, and never fails otherwise', () => {
    const packed = packTexts({ 'a.txt': 'gap 412 µm', 'b.txt': '' }, KIND);
    fc.assert(
      fc.property(fc.nat(packed.length - 1), fc.nat(255), (at, byte) => {
        const changed = packed.slice();
        changed[at] = byte;
        const done = unpackFiles(changed, KIND);
        if (done.ok) expect(done.value.texts).toEqual({ 'a.txt': 'gap 412 µm', 'b.txt': '' });
      }),
    );
  });
});

/** Makes every entry of a zip state another unpacked size, in its local header and in the central directory. */
function stateSizes(zip: Uint8Array, bytes: number): void {
  const view = new DataView(zip.buffer, zip.byteOffset, zip.byteLength);
  for (let i = 0; i + 28 < zip.length; i++) {
    if (view.getUint32(i, true) === 0x04034b50) view.setUint32(i + 22, bytes, true);
    if (view.getUint32(i, true) === 0x02014b50) view.setUint32(i + 24, bytes, true);
  }
}

function manifestOf(packed: Uint8Array): Uint8Array {
  return unzipSync(packed)['manifest.json'] ?? new Uint8Array(0);
}

const snapshot: FiledProject = {
  project: { id: uuidOf(1), name: 'Quern Hollow, line 2', dialects: [] },
  links: [{ id: uuidOf(2), name: 'Kiln cabinet', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } }],
  devices: [
    {
      id: uuidOf(3),
      linkId: uuidOf(2),
      name: 'KILN',
      settings: { unit: 1 },
      dialect: {},
      witnessUrl: '',
      identityTagId: null,
      identity: '',
      lifeTagId: null,
      lifeSeconds: 5,
      ownLifeTagId: null,
      reads: 'always',
      isSimulated: false,
    },
  ],
  enumerations: [],
  structures: [],
  blocks: [],
  members: [],
  simulations: [],
  copyRules: [],
  groups: [
    {
      id: uuidOf(5),
      name: 'Bed',
      parentId: null,
      deviceId: uuidOf(3),
      periodMs: null,
      reads: null,
      access: null,
      prefix: '',
      unavailable: null,
      witnessUrl: null,
    },
  ],
  sources: [],
  tags: [
    {
      id: uuidOf(4),
      name: 'bed_temp',
      groupId: uuidOf(5),
      source: newPoint(uuidOf(3), '40018', { order: 'CDAB', periodMs: 500 }),
      type: 'REAL',
      access: 'readWrite',
      confirm: EQUAL,
      unit: '°C',
      decimals: 1,
      rangeLow: 20,
      rangeHigh: 140,
      rawRange: null,
      displayRange: null,
      limits: null,
      unavailable: null,
      comment: '=cmd, "quoted"; °C',
      listId: '',
      listType: '',
      listName: '',
      isGone: false,
      names: [],
      enumerationId: null,
      initial: '',
    },
  ],
  scales: [{ id: uuidOf(4), scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 0.1 }, sharedId: null }],
  sharedScales: [],
  pictures: [],
  stateLists: [],
  subjectLists: [],
  translations: [],
  operators: [],
  alarms: [],
  panels: [],
  pages: [],
  elements: [],
  panelWords: [],
  proofs: [],
};

describe('a project file', () => {
  test('brings the same project back, every number to its last digit', () => {
    const file = readProjectFile(writeProjectFile(snapshot, '2026-11-25T08:00:00Z'));
    if (!file.ok) throw new Error(file.problem.message);
    expect(file.value.name).toBe('Quern Hollow, line 2');
    const { differences, changes } = compareProject(snapshot, file.value);
    expect(changes).toEqual([]);
    expect(differences.every((d) => d.added.count + d.changed.count + d.removed.count === 0)).toBe(true);
  });
  test('says what differs: fields that changed, things that are new, things that are gone', () => {
    const file = readProjectFile(writeProjectFile(snapshot, ''));
    if (!file.ok) throw new Error(file.problem.message);
    const [tag] = snapshot.tags;
    if (!tag) throw new Error();
    const now: FiledProject = {
      ...snapshot,
      scales: [],
      tags: [
        { ...tag, ...withPoint(tag, { order: 'ABCD' }), unit: 'K' },
        { ...tag, id: uuidOf(9), name: 'extra' },
      ],
    };
    const { differences, changes } = compareProject(now, file.value);
    const of = (kind: string) => differences.find((d) => d.kind === kind);
    expect(of('tag')).toMatchObject({
      added: { count: 0 },
      changed: { first: [{ name: 'bed_temp', fields: ['source', 'unit'] }] },
      removed: { first: ['extra'] },
    });
    expect(of('scale')).toMatchObject({ added: { count: 1, first: ['bed_temp'] } });
    expect(changes.at(-1)).toEqual({ kind: 'tag', id: uuidOf(9), set: null });
  });
  test('with an entity that breaks its rules is refused with its place', () => {
    const broken = { ...snapshot, tags: snapshot.tags.map((t) => ({ ...t, ...withPoint(t, { periodMs: 7 }) })) };
    expect(readProjectFile(writeProjectFile(broken, ''))).toMatchObject({ ok: false, problem: { place: 'tags[0].source.periodMs' } });
  });
  test('with two tags of one id, or a text that holds no characters, is refused', () => {
    const [tag] = snapshot.tags;
    if (!tag) throw new Error();
    const twice = { ...snapshot, tags: [tag, { ...tag, name: 'other' }] };
    expect(readProjectFile(writeProjectFile(twice, ''))).toMatchObject({ ok: false, problem: { place: 'tags[1].id' } });
    const half = { ...snapshot, tags: [{ ...tag, comment: '\ud800' }] };
    expect(readProjectFile(writeProjectFile(half, ''))).toMatchObject({ ok: false, problem: { code: 'json', place: 'project.json' } });
  });
  test('of before devices were simulated one by one leads its links to the machine, and has their devices simulated', () => {
    const { simulations: _none, ...before } = snapshot;
    const real = { driver: 'modbus-tcp', settings: { host: '192.0.2.10', port: 502 } };
    const old = {
      ...before,
      links: snapshot.links.map((link) => ({ ...link, driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 40_123 }, real })),
    };
    const read = readProjectFile(writeProjectFile(old as never, ''));
    const of = (kind: string) => (read.ok ? read.value.entities.flatMap((one) => (one.kind === kind ? [one.entity] : [])) : []);
    expect(of('link')).toMatchObject([real]);
    expect(of('link')[0]).not.toHaveProperty('real');
    expect(of('device')).toMatchObject(snapshot.devices.map(() => ({ isSimulated: true, witnessUrl: '' })));
  });

  test('brings no proofs from the future', () => {
    const at = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString();
    const proof = {
      tagId: uuidOf(3),
      digest: 'a'.repeat(64),
      agrees: true,
      witness: 'typed',
      who: 'R. Vale',
      seen: {},
      madeIn: null,
      isElsewhere: false,
    };
    const proofs = [at(-1), at(3)].map((time) => ({ ...proof, at: time })) as unknown as FiledProject['proofs'];
    const file = readProjectFile(writeProjectFile({ ...snapshot, proofs }, ''));
    expect(file.ok && file.value.proofs.map((p) => p.at)).toEqual([proofs[0]?.at]);
  });
});

describe('a list that goes out', () => {
  test('can be imported again', () => {
    const list = readDelimited(writeList(snapshot.tags, { scaleOf: () => null, groupOf: () => 'Bed' }));
    expect(list.problems).toEqual([]);
    expect(list.rows[0]?.cells).toMatchObject({
      name: 'bed_temp',
      address: '40018',
      type: 'REAL',
      order: 'CDAB',
      access: 'RW',
      unit: '°C',
      decimals: '1',
      low: '20',
      high: '140',
      period: '500',
      group: 'Bed',
    });
  });
  test('cannot start a formula in a spreadsheet', () => {
    for (const line of writeList(snapshot.tags).split('\r\n')) for (const cell of line.split(',')) expect(cell).not.toMatch(/^"?[=+@]/);
  });
});
