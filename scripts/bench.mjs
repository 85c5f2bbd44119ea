/** `npm run bench [-- modbus] [-- server]`: builds the product and the benchmarks, and runs them. */

import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { build as buildProduct, installDebian, installPackages, root } from './lib.mjs';

installPackages();
installDebian('chromium', 'socat', 'python3');
await buildProduct();

const outfile = join(root, 'dist/bench/main.mjs');
const { build } = await import('esbuild');
await build({
  entryPoints: [join(root, 'bench/main.ts')],
  outfile,
  bundle: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  tsconfig: join(root, 'tsconfig.json'),
  logLevel: 'warning',
});
process.exit(spawnSync(process.execPath, [outfile, ...process.argv.slice(2)], { stdio: 'inherit', cwd: root }).status ?? 1);
