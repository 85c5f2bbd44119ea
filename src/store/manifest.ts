/** What is known of the database beside it: its schema, and how far it had come. */
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { jsonObjectIn } from '@/core/jsonText.ts';
import { writeWhole } from './writeWhole.ts';

export const MANIFEST = 'manifest.json';
/** Where versions before it kept the schema. */
export const SCHEMA_FILE = 'schema.json';

export interface Manifest {
  readonly schema: number;
  /** The last number in each table that only grows; empty where it is not known. */
  readonly reached: Readonly<Record<string, number>>;
}

/** @returns null where there is none; one that is no longer what was written tells of nothing but schema 0 */
export async function readManifest(folder: string): Promise<Manifest | null> {
  const [text, older] = await Promise.all([MANIFEST, SCHEMA_FILE].map((name) => readFile(join(folder, name), 'utf8').catch(() => null)));
  const told = jsonObjectIn(text ?? older ?? '');
  if (told === null) return (text ?? older) === null ? null : { schema: 0, reached: {} };
  const reached = jsonObjectIn(JSON.stringify(told.reached ?? {})) ?? {};
  return {
    schema: Number(told.schema) || 0,
    reached: Object.fromEntries(Object.entries(reached).map(([table, seq]) => [table, Number(seq) || 0])),
  };
}

/** @throws Error when the disk is full */
export async function writeManifest(folder: string, manifest: Manifest): Promise<void> {
  await writeWhole(join(folder, MANIFEST), JSON.stringify(manifest));
  await rm(join(folder, SCHEMA_FILE), { force: true });
}

/** Another database comes to lie there. */
export async function forgetManifest(folder: string): Promise<void> {
  for (const name of [MANIFEST, SCHEMA_FILE]) await rm(join(folder, name), { force: true });
}
