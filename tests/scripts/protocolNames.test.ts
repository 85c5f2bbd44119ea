/** Above the drivers nothing names a protocol, its units, functions or registers, outside the parts that only some drivers offer. */
import { expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SRC = fileURLToPath(new URL('../../src', import.meta.url));
const ABOVE = ['mapping', 'model', 'runtime', 'services', 'store', 'server', 'ui', 'app'];
const NAMES = /modbus|opc.?ua|ethernet.?ip|\bcip\b|mqtt|function code|\bcoils?\b|holding reg|input reg|\bregisters?\b|\bunits? \d/i;
/** No word about a protocol: forms register their fields. */
const OTHER = /\.register\(|form\.register/;

test('no protocol is named above the drivers', () => {
  const found: string[] = [];
  for (const layer of ABOVE)
    for (const entry of readdirSync(join(SRC, layer), { recursive: true, withFileTypes: true })) {
      const path = join(entry.parentPath, entry.name).slice(SRC.length + 1);
      if (!entry.isFile() || !/\.(ts|tsx)$/.test(path)) continue;
      for (const [at, line] of readFileSync(join(SRC, path), 'utf8').split('\n').entries())
        if (NAMES.test(line) && !OTHER.test(line)) found.push(`${path}:${at + 1} ${line.trim().slice(0, 100)}`);
    }
  expect(found).toEqual([]);
});
