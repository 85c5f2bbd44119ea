/** What the commands share. Uses nothing but Node: it runs before anything is installed. */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { precompress } from './precompress.mjs';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Runs a command to its end; the exit code. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (done.error) console.error(`${command}: ${done.error.message}`);
  return done.status ?? 1;
}

/** Installs the npm packages when they are missing or the lock file has changed since. */
export function installPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const mark = join(root, 'node_modules/.mill-latch-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  console.log('Installing packages …');
  // Not `npm ci`: a lock file written where some optional platform binaries are not offered makes it refuse.
  if (run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--ignore-scripts', '--loglevel=error']) !== 0)
    fail('The packages could not be installed. Check the network, and try again.');
  writeFileSync(mark, lock);
}

/** Programs of packages that are called otherwise. */
const PROGRAMS = { 'poppler-utils': 'pdftotext' };

/** Installs Debian's packages whose program is missing; what then fails says so itself. A browser may be named in CHROMIUM instead. */
export function installDebian(...names) {
  const missing = names.filter((name) => !existsSync(`/usr/bin/${PROGRAMS[name] ?? name}`) && !(name === 'chromium' && process.env.CHROMIUM));
  if (missing.length === 0) return;
  console.log(`Installing ${missing.join(', ')} …`);
  const quiet = { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }, stdio: ['ignore', 'ignore', 'inherit'] };
  if (run('apt-get', ['update', '-q'], quiet) !== 0 || run('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...missing], quiet) !== 0)
    console.error(`apt could not install ${missing.join(', ')}; the tests that need it will fail. Install it by hand.`);
}

/** Builds pages, server and the template of an empty database when a source is newer than the last build. */
export async function build({ force = false } = {}) {
  const mark = join(root, 'dist/.built');
  const now = fingerprint();
  if (!force && existsSync(mark) && readFileSync(mark, 'utf8') === now && existsSync(join(root, '.next/BUILD_ID'))) return;
  const { buildServerSide } = await import('./buildServerSide.mjs');
  console.log('Building …');
  await buildServerSide();
  const { buildGlass } = await import('./buildGlass.mjs');
  await buildGlass(root);
  if (
    run(process.execPath, [join(root, 'node_modules/next/dist/bin/next'), 'build'], {
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', NODE_ENV: 'production' },
    }) !== 0
  )
    fail('The build failed.');
  precompress(join(root, '.next/static'));
  mkdirSync(join(root, 'dist'), { recursive: true });
  writeFileSync(mark, now);
}

function fingerprint() {
  const hash = createHash('sha256');
  const add = (path) => {
    const info = statSync(path);
    if (info.isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else hash.update(path).update(readFileSync(path));
  };
  for (const part of [
    'src',
    'package-lock.json',
    'next.config.mjs',
    'postcss.config.mjs',
    'tsconfig.json',
    'scripts/buildServerSide.mjs',
    'scripts/buildGlass.mjs',
    'scripts/precompress.mjs',
  ])
    add(join(root, part));
  return hash.digest('hex');
}

/** The wanted port, or the next free one after it. */
export async function freePort(wanted) {
  for (let port = wanted; port < wanted + 200 && port < 65536; port++) if (await isFree(port)) return port;
  fail(`No port from ${wanted} on is free.`);
}

function isFree(port) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

/**
 * How the server's collector works: what it fetches of the young is little each time, and fetched by the engine's own
 * thread; helpers would be faster on average, but where they must wait for a core the engine waits for them. The old are
 * first looked through at 700 MB, which importing 100 000 tags stays under: marking half a million things holds the engine
 * up again and again. From there on they are fetched before they are many.
 */
const SERVER_FLAGS = JSON.parse(readFileSync(join(root, 'scripts/serverFlags.json'), 'utf8'));
/** A panel host has little memory, and few things that live long. */
const HOST_FLAGS = JSON.parse(readFileSync(join(root, 'scripts/panelFlags.json'), 'utf8'));
const FLAGS = { 'server.mjs': SERVER_FLAGS, 'panelHost.mjs': HOST_FLAGS };

/**
 * Starts a program of ours and waits for its first line, which is JSON. It ends with us, by its standard input. Ctrl-C is
 * for us alone: devices that ended at the same moment as the server could not be told to let go.
 */
export function startProgram(name, file, args, onEnd) {
  const flags = FLAGS[file] ?? [];
  const child = spawn(process.execPath, [...flags, join(root, 'dist', file), ...args, '--with-parent'], {
    cwd: root,
    detached: true,
    stdio: ['pipe', 'pipe', 'inherit'],
    env: { ...process.env, NODE_ENV: args.includes('--dev') ? 'development' : 'production', NEXT_TELEMETRY_DISABLED: '1' },
  });
  return new Promise((resolve, reject) => {
    let text = '';
    let said = false;
    child.stdout.on('data', (chunk) => {
      if (said) return process.stdout.write(chunk);
      text += chunk;
      for (const line of text.split('\n').slice(0, -1)) {
        if (!line.startsWith('{')) continue;
        said = true;
        resolve({ child, told: JSON.parse(line) });
        return;
      }
    });
    child.on('exit', (code, signal) => {
      if (!said) reject(Object.assign(new Error(`${name} ended before it was ready (${signal ?? code}).`), { code }));
      else onEnd(code, signal);
    });
  });
}

/** Exit code with which the server says that the data folder is damaged. */
const DAMAGED = 76;

/** Exit code with which the server asks to be started again, with a restored backup for one. */
export const START_AGAIN = 75;

/** After a crash it is started again after so long, twice as long each time, and given up after so many. */
const FIRST_WAIT_MS = 1_000;
const LONGEST_WAIT_MS = 30_000;
const MOST_CRASHES = 8;
/** Having run for so long, a crash is the first one again. */
const STEADY_MS = 60_000;

/**
 * Starts the server, and again whenever it asks for it or has crashed. `child` is the one that runs now; none while the
 * next start is waited for. `end` ends it, and the waiting.
 */
export async function keepServer(args, onEnd, file = 'server.mjs', name = 'The server') {
  const kept = { child: null, told: null, end: async (devices = []) => ((ending = true), clearTimeout(waiting), endPrograms(kept.child, devices)) };
  let ending = false;
  let crashes = 0;
  let waiting;
  const start = async (why) => {
    const begun = Date.now();
    const more = why && file === 'server.mjs' ? ['--started-again', why] : [];
    const { child, told } = await startProgram(name, file, [...args, ...more], (code, signal) => {
      kept.child = null;
      if (ending) return;
      if (code === 0) return onEnd(code, signal);
      // Asked for once: what was restored is there now.
      args = args.filter((arg, i) => arg !== '--restore' && args[i - 1] !== '--restore' && arg !== '--as-it-is');
      if (code === START_AGAIN) return void again('', 0);
      if (Date.now() - begun > STEADY_MS) crashes = 0;
      again(`it ended with ${signal ?? `code ${code}`}`, code, signal);
    });
    Object.assign(kept, { child, told });
  };
  const again = (why, code, signal) => {
    if (why && ++crashes > MOST_CRASHES) return onEnd(code ?? 1, signal);
    const waitMs = why ? Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (crashes - 1)) : 0;
    if (why) console.error(`${name} crashed: ${why}. It is started again in ${waitMs / 1000} s.`);
    waiting = setTimeout(() => {
      start(why).catch((error) => {
        console.error(error.message);
        if (error.code === DAMAGED || ending) onEnd(error.code ?? 1, null);
        else again(why || 'it did not start', 1, null);
      });
    }, waitMs);
  };
  await start('');
  return kept;
}

/** Simulated devices end at once. */
const DEVICE_PATIENCE_MS = 5_000;
/** A server first lets go of held buttons, and waits for their lines; Ctrl-C once more ends it all the same. */
const SERVER_PATIENCE_MS = 150_000;

/** Ends the server, then the devices that it talks to, by their ids, and waits for them. */
export async function endPrograms(server, devices = []) {
  if (server) {
    process.once('SIGINT', () => server.kill('SIGKILL'));
    await endProgram(server, SERVER_PATIENCE_MS);
  }
  await Promise.all(devices.map((device) => endProgram(device, DEVICE_PATIENCE_MS)));
}

function endProgram(child, patienceMs) {
  return new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    const late = setTimeout(() => child.kill('SIGKILL'), patienceMs);
    child.once('exit', () => {
      clearTimeout(late);
      resolve();
    });
    child.kill('SIGTERM');
  });
}

export function fail(message) {
  console.error(message);
  process.exit(1);
}

/** `--name value` and `--name=value`. */
export function option(name) {
  const args = process.argv.slice(2);
  const at = args.findIndex((a) => a === `--${name}` || a.startsWith(`--${name}=`));
  if (at < 0) return undefined;
  return args[at].includes('=') ? args[at].slice(args[at].indexOf('=') + 1) : args[at + 1];
}

export function portOption(standard) {
  const text = option('port');
  const port = text === undefined ? standard : Number(text);
  if (!Number.isInteger(port) || port < 1 || port > 65535) fail(`The port must be a whole number from 1 to 65535, not “${text}”.`);
  return port;
}
