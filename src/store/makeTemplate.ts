/** At build time: makes the empty database that new data folders start from, since making one takes seconds. */
import { PGlite } from '@electric-sql/pglite';
import { rename, rm } from 'node:fs/promises';

const target = process.argv[2];
if (!target) throw new Error('usage: makeTemplate FOLDER');
const fresh = `${target}.new`;
await rm(fresh, { recursive: true, force: true });
const database = await PGlite.create({ dataDir: fresh });
await database.close();
await rm(target, { recursive: true, force: true });
await rename(fresh, target);
