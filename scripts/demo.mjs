/** `npm run demo [-- --port N --fresh]`: stand-ins and server with the demo project, from nothing to an open page. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { build, endPrograms, freePort, installPackages, keepServer, portOption, root, startProgram } from './lib.mjs';

const wanted = portOption(4780);
installPackages();
await build();

const folder = join(root, '.demo-data');
const children = [];
let server;
let ending = false;
async function end(code) {
  if (ending) return;
  ending = true;
  await (server ? server.end(children) : endPrograms(null, children));
  process.exit(code);
}
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end(0));

async function start(name, file, args, onEnd) {
  const started = await startProgram(name, file, args, (code, signal) => !ending && onEnd(code, signal)).catch(async (error) => {
    console.error(error.message);
    await end(1);
  });
  children.push(started.child);
  return started.told;
}

if (process.argv.includes('--fresh')) for (const old of [folder, `${folder}-weigh`]) rmSync(old, { recursive: true, force: true });
const modbusPort = await freePort(15020);
const controlPort = await freePort(Math.max(18020, modbusPort + 1));
const kiln = await start('The simulated kiln', 'standin-kiln.mjs', ['--port', String(modbusPort), '--control', String(controlPort)], (code, signal) =>
  console.error(`The simulated kiln has ended (${signal ?? code}): its values turn bad. Start the demo again to bring it back.`),
);
const rollsPort = await freePort(Math.max(15021, modbusPort + 1));
const rollsControl = await freePort(Math.max(18021, controlPort + 1));
const rolls = await start(
  'The simulated flaking stands',
  'standin-rolls.mjs',
  ['--port', String(rollsPort), '--control', String(rollsControl)],
  (code, signal) => console.error(`The simulated flaking stands have ended (${signal ?? code}). Start the demo again to bring them back.`),
);
const weighControl = await freePort(Math.max(18022, rollsControl + 1));
const weigh = await start(
  'The simulated weigher',
  'standin-weigh.mjs',
  ['--port', String(await freePort(14840)), '--control', String(weighControl), '--pki', `${folder}-weigh`],
  (code, signal) => console.error(`The simulated weigher has ended (${signal ?? code}). Start the demo again to bring it back.`),
);
const packControl = await freePort(Math.max(18023, weighControl + 1));
const pack = await start(
  'The simulated bagging cell',
  'standin-pack.mjs',
  ['--port', String(await freePort(14818)), '--control', String(packControl)],
  (code, signal) => console.error(`The simulated bagging cell has ended (${signal ?? code}). Start the demo again to bring it back.`),
);
const port = await freePort(wanted);
if (port !== wanted) console.log(`Port ${wanted} is in use, so ${port} is taken.`);
const demoArgs = [
  '--demo-kiln',
  `${kiln.modbusPort},${kiln.controlPort}`,
  '--demo-rolls',
  `${rolls.modbusPort},${rolls.controlPort}`,
  '--demo-weigh',
  `${weigh.uaPort},${weigh.controlPort},${weigh.fingerprint}`,
  '--demo-pack',
  `${pack.cipPort},${pack.controlPort}`,
];
server = await keepServer(['--port', String(port), '--data', folder, ...demoArgs], (code, signal) => {
  if (ending) return;
  console.error(`The server has ended (${signal ?? code}).`);
  void end(code ?? 1);
}).catch(async (error) => {
  console.error(error.message);
  await end(1);
});
console.log(`
The demo is open at ${server.told.address}

Quern Hollow, line 2. A simulated kiln speaks Modbus TCP on 127.0.0.1:${kiln.modbusPort}, and tells what it really
holds on its control channel at http://127.0.0.1:${kiln.controlPort}/values. Eight simulated flaking stands share a
serial line behind a gateway on 127.0.0.1:${rolls.modbusPort}; their control channel is on port ${rolls.controlPort}.
A batch weigher has a server of OPC UA on 127.0.0.1:${weigh.uaPort}; its control channel is on port ${weigh.controlPort}.
A bagging cell has a controller with named tags on 127.0.0.1:${pack.cipPort}; its control channel is on port ${pack.controlPort}.
One list is left to import: demo/kiln-drives.csv. Six tags are mapped wrongly, for the checks to find.
Ctrl-C ends everything; --fresh begins anew.`);
