/**
 * `npm test`: installs what is missing, then lint, types, layer rules, unit tests, production build, and browser
 * tests against the built server. Ends with one line: `N passed, N failed`.
 */
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, installDebian, installPackages, root, run } from './lib.mjs';

let passed = 0;
let failed = 0;
const scratch = mkdtempSync(join(tmpdir(), 'mill-latch-test-'));
const bin = (path) => join(root, 'node_modules', path);

function step(name, args) {
  console.log(`\n— ${name}`);
  const begun = Date.now();
  const good = run(process.execPath, args) === 0;
  console.log(`— ${name}: ${good ? 'passed' : 'FAILED'} in ${((Date.now() - begun) / 1000).toFixed(1)} s`);
  if (good) passed++;
  else failed++;
}

/** Jest's own count of tests; a run that did not come to an end is one failure. */
function tests(name, args) {
  console.log(`\n— ${name}`);
  const report = join(scratch, `${name.replace(/\W/g, '-')}.json`);
  const begun = Date.now();
  const status = run(
    process.execPath,
    ['--experimental-vm-modules', '--no-warnings', bin('jest/bin/jest.js'), '--json', `--outputFile=${report}`, '--forceExit', ...args],
    { stdio: ['ignore', 'ignore', 'inherit'] },
  );
  const told = existsSync(report) ? JSON.parse(readFileSync(report, 'utf8')) : null;
  const ran = (told?.numPassedTests ?? 0) + (told?.numFailedTests ?? 0);
  passed += told?.numPassedTests ?? 0;
  failed += told?.numFailedTests ?? 0;
  // A test file that did not even load, or a runner that broke off, is a failure of its own.
  const broken = (told?.testResults ?? []).filter((r) => r.status === 'failed' && !r.assertionResults.some((a) => a.status === 'failed')).length;
  failed += broken || (status !== 0 && (told?.numFailedTests ?? 0) === 0) || ran === 0 ? Math.max(1, broken) : 0;
  console.log(`— ${name}: ${ran} tests in ${((Date.now() - begun) / 1000).toFixed(1)} s`);
}

try {
  installPackages();
  installDebian('chromium', 'socat', 'tshark');
  step('lint', [bin('eslint/bin/eslint.js'), '.', '--max-warnings', '0']);
  step('format', [bin('prettier/bin/prettier.cjs'), '--check', '--log-level', 'warn', '.']);
  step('types', [bin('typescript/bin/tsc'), '--noEmit']);
  step('layers', [bin('dependency-cruiser/bin/dependency-cruise.mjs'), '--config', 'dependency-cruiser.config.mjs', 'src']);
  tests('unit tests', []);
  await build();
  tests('browser tests', ['--config', 'jest.e2e.config.mjs']);
} finally {
  rmSync(scratch, { recursive: true, force: true });
}
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
