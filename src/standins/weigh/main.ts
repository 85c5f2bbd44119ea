/**
 * WEIGH, a simulated batch weigher: a process of its own with a server of OPC UA and a control channel.
 * node dist/standin-weigh.mjs [--port N] [--control N] [--pki FOLDER] [--with-parent]; prints one JSON line when it listens.
 *
 * Beside the orders that all stand-ins take, { "set": { "renumber": n } } starts its server anew with n namespaces before its own,
 * as after a change of its program: node ids by number lead elsewhere from then on.
 */
import { createHash } from 'node:crypto';
import { mkdtempSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { OPCUACertificateManager, OPCUAServer, setDebugLogger, setErrorLogger, setWarningLogger } from 'node-opcua';
import { serveControl } from '../controlChannel.ts';
import { endWithParent, listen } from '../listening.ts';
import { buildAddressSpace, tellWeigher } from './addressSpace.ts';
import { newWeigher, stepWeigher } from './process.ts';

const { values: args } = parseArgs({
  options: {
    port: { type: 'string', default: '0' },
    control: { type: 'string', default: '0' },
    pki: { type: 'string', default: '' },
    'with-parent': { type: 'boolean', default: false },
  },
});
const STEP_MS = 100;
const MOST_NAMESPACES = 20;

setDebugLogger(() => undefined);
setWarningLogger(() => undefined);
setErrorLogger(() => undefined);

const weigher = newWeigher();
let held = false;
let server: OPCUAServer | null = null;
let changing: Promise<void> = Promise.resolve();

const control = serveControl({
  name: 'WEIGH',
  values: () => tellWeigher(weigher),
  hold: (on) => (held = on),
  set: (name, value) => {
    if (name === 'renumber' && Number.isInteger(value) && Number(value) >= 0 && Number(value) <= MOST_NAMESPACES) {
      changing = changing.then(() => serve(Number(value)));
      return true;
    }
    if (name === 'weight' && typeof value === 'number') weigher.weight = value;
    else if (name === 'running' && typeof value === 'boolean') weigher.isRunning = value;
    else if (name === 'recipe' && typeof value === 'string') weigher.recipe = value;
    else return false;
    return true;
  },
  fail: () => undefined,
});

setInterval(() => {
  if (!held) stepWeigher(weigher, STEP_MS / 1000);
}, STEP_MS);

const pki = args.pki === '' ? mkdtempSync(join(tmpdir(), 'mill-latch-weigh-')) : args.pki;
const port = Number(args.port) || (await freePort());

/** @param before how many namespaces come before the weigher's own */
async function serve(before: number): Promise<void> {
  await server?.shutdown(0);
  const manager = new OPCUACertificateManager({ rootFolder: pki, automaticallyAcceptUnknownCertificate: true });
  await manager.initialize();
  const made = new OPCUAServer({
    port,
    host: '127.0.0.1',
    hostname: '127.0.0.1',
    serverCertificateManager: manager,
    serverInfo: { applicationUri: 'urn:quern-hollow:weigh:server', applicationName: { text: 'WEIGH, Quern Hollow line 2' } },
    buildInfo: { productName: 'Batch weigher', manufacturerName: 'Quern Hollow', softwareVersion: before === 0 ? '2.4' : '2.5' },
  });
  await made.initialize();
  if (!made.engine.addressSpace) throw new Error('no address space');
  buildAddressSpace(
    made.engine.addressSpace,
    weigher,
    Array.from({ length: before }, (_, i) => `urn:quern-hollow:module-${i + 1}`),
  );
  await made.start();
  server = made;
}

async function freePort(): Promise<number> {
  const probe = createServer();
  const found = await listen(probe, 0);
  await new Promise((resolve) => probe.close(resolve));
  return found;
}

try {
  await serve(0);
  const controlPort = await listen(control, Number(args.control));
  const certificate = (server as OPCUAServer | null)?.getCertificate();
  const fingerprint = certificate ? createHash('sha256').update(certificate).digest('hex') : '';
  console.log(JSON.stringify({ standin: 'WEIGH', uaPort: port, controlPort, fingerprint }));
} catch (error) {
  console.error(`WEIGH cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}

endWithParent(args['with-parent']);
