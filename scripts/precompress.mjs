/** Compresses what pages are made of once, as well as it can be: the server does not do so again for each that asks. */
import { readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

const TEXTS = /\.(js|css|svg|json|map|txt)$/;
const LEAST_BYTES = 1000;

/** Puts `name.br` and `name.gz` beside each text in the folder. */
export function precompress(folder) {
  for (const name of readdirSync(folder)) {
    const path = join(folder, name);
    const info = statSync(path);
    if (info.isDirectory()) precompress(path);
    else if (TEXTS.test(name) && info.size >= LEAST_BYTES) {
      const bytes = readFileSync(path);
      writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length } }));
      writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
    }
  }
}
