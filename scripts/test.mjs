/**
 * `npm test`: installs what is missing, then unit tests with lint, types and layer rules beside them, production build, and
 * browser tests against the built server. Ends with one line: `N passed, N failed`.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, installDebian, installPackages, root } from './lib.mjs';

/** Of what is checked without running anything: it takes what the tests leave of the processors. */
const BEHIND = '15';

let passed = 0;
let failed = 0;
const scratch = mkdtempSync(join(tmpdir(), 'mill-latch-test-'));
const bin = (path) => join(root, 'node_modules', path);

/** Prints what it said once it is over: others run beside it. */
async function step(name, args) {
  const begun = Date.now();
  const child = spawn('nice', ['-n', BEHIND, process.execPath, ...args], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (said += chunk));
  const [code] = await once(child, 'close');
  const good = code === 0;
  console.log(`\n— ${name}: ${good ? 'passed' : 'FAILED'} in ${((Date.now() - begun) / 1000).toFixed(1)} s\n${said}`);
  if (good) passed++;
  else failed++;
}

async function checks() {
  await step('types', [bin('typescript/bin/tsc'), '--noEmit']);
  await step('layers', [bin('dependency-cruiser/bin/dependency-cruise.mjs'), '--config', 'dependency-cruiser.config.mjs', 'src']);
  await step('lint', [bin('eslint/bin/eslint.js'), '.', '--max-warnings', '0']);
  await step('format', [bin('prettier/bin/prettier.cjs'), '--check', '--log-level', 'warn', '.']);
}

/** Jest's own count of tests; a run that did not come to an end is one failure. */
async function tests(name, args) {
  console.log(`\n— ${name}`);
  const report = join(scratch, `${name.replace(/\W/g, '-')}.json`);
  const begun = Date.now();
  const child = spawn(
    process.execPath,
    ['--experimental-vm-modules', '--no-warnings', bin('jest/bin/jest.js'), '--json', `--outputFile=${report}`, '--forceExit', ...args],
    { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] },
  );
  const [status] = await once(child, 'close');
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
  installDebian('chromium', 'socat', 'tshark', 'python3', 'poppler-utils');
  // Tests wait for devices a quarter of their time.
  await Promise.all([tests('unit tests', []), checks()]);
  await build();
  await tests('browser tests', ['--config', 'jest.e2e.config.mjs']);
} finally {
  rmSync(scratch, { recursive: true, force: true });
}
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
