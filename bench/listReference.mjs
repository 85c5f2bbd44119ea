/** What a list costs at the least: read by papaparse, written by papaparse, taken by COPY into a keyed table of PGlite. */
import { PGlite } from '@electric-sql/pglite';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Papa from 'papaparse';

const folder = mkdtempSync(join(tmpdir(), 'mill-latch-reference-'));
const database = await PGlite.create({ dataDir: join(folder, 'db') });
await database.exec(
  'create table list (name text primary key, address text, type text, unit text, low double precision, high double precision, area text, comment text)',
);
const text = readFileSync(process.argv[2], 'utf8');
const begun = performance.now();
const { data } = Papa.parse(text, { skipEmptyLines: true });
const parsed = performance.now();
const rows = Papa.unparse(data.slice(1));
await database.transaction((tx) => tx.query(`copy list from '/dev/blob' with (format csv)`, [], { blob: new Blob([rows]) }));
const ms = performance.now() - begun;
const { rows: counted } = await database.query('select count(*)::int as count from list');
process.stdout.write(JSON.stringify({ ms, parseMs: parsed - begun, count: counted[0].count }));
await database.close();
rmSync(folder, { recursive: true, force: true });
