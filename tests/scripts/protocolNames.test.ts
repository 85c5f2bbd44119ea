/** Above the drivers nothing names a protocol, its units, functions or registers, outside the parts that only some drivers offer. */
import { expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const SRC = fileURLToPath(new URL('../../src', import.meta.url));
const ABOVE = ['model', 'runtime', 'services', 'store', 'ui', 'app'];
const NAMES = /modbus|opc.?ua|ethernet.?ip|\bcip\b|mqtt|function code|\bcoils?\b|holding reg|input reg|\bregisters?\b|\bunits? \d/i;
/** Optional parts: discovery by number, search by a known value, and the orders of bytes; each is shown where a driver offers it. */
const OPTIONAL = ['ui/links/FindUnits.tsx', 'ui/links/FindValue.tsx', 'services/findService.ts', 'app/api/http/bodies.ts'];
/** Words that are not about a protocol: forms register their fields, and the names of status codes are those of IEC 62541 for any value. */
const OTHER = /\.register\(|OPC UA status name|form\.register|register:|controller's register to/;

test('no protocol is named above the drivers', () => {
  const found: string[] = [];
  for (const layer of ABOVE)
    for (const entry of readdirSync(join(SRC, layer), { recursive: true, withFileTypes: true })) {
      const path = join(entry.parentPath, entry.name).slice(SRC.length + 1);
      if (!entry.isFile() || !/\.(ts|tsx)$/.test(path) || OPTIONAL.includes(path)) continue;
      for (const [at, line] of readFileSync(join(SRC, path), 'utf8').split('\n').entries())
        if (NAMES.test(line) && !OTHER.test(line)) found.push(`${path}:${at + 1} ${line.trim().slice(0, 100)}`);
    }
  expect(found).toEqual([]);
});
