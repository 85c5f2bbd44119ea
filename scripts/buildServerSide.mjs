/** Builds what runs in Node outside of Next: the server, the store's worker and the stand-ins, into dist/. */
import { build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, readdirSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

export async function buildServerSide() {
  const standins = join(root, 'src/standins');
  const entries = {
    server: join(root, 'src/server/main.ts'),
    panelHost: join(root, 'src/panelHost/main.ts'),
    storeWorker: join(root, 'src/store/worker.ts'),
    draftThread: join(root, 'src/services/lists/draftThread.ts'),
    fileThread: join(root, 'src/services/projectFile/fileThread.ts'),
    makeTemplate: join(root, 'src/store/makeTemplate.ts'),
  };
  if (existsSync(standins))
    for (const name of readdirSync(standins))
      if (existsSync(join(standins, name, 'main.ts'))) entries[`standin-${name}`] = join(standins, name, 'main.ts');
  await build({
    entryPoints: Object.fromEntries(Object.entries(entries).filter(([, file]) => existsSync(file))),
    outdir: join(root, 'dist'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: false,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
    tsconfig: join(root, 'tsconfig.json'),
  });
  const migrations = join(root, 'src/store/migrations');
  // A migration that was renamed must not be there twice.
  rmSync(join(root, 'dist/migrations'), { recursive: true, force: true });
  if (existsSync(migrations)) cpSync(migrations, join(root, 'dist/migrations'), { recursive: true });
  const template = join(root, 'dist/db-template');
  if (!existsSync(template) && spawnSync(process.execPath, [join(root, 'dist/makeTemplate.mjs'), template], { stdio: 'inherit' }).status !== 0)
    throw new Error('The empty database could not be made.');
}
