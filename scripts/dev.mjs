/** `npm run dev`: the server with pages rebuilt as they are edited, and simulated devices, on the demo's data. */
import { join } from 'node:path';
import { endPrograms, freePort, installPackages, portOption, root, startProgram } from './lib.mjs';

installPackages();
const { buildServerSide } = await import('./buildServerSide.mjs');
await buildServerSide();
const ended = (name) => (code, signal) => console.error(`${name} has ended (${signal ?? code}).`);
const kiln = await startProgram(
  'The simulated kiln',
  'standin-kiln.mjs',
  ['--port', String(await freePort(15020)), '--control', String(await freePort(18020))],
  ended('The simulated kiln'),
);
const rolls = await startProgram(
  'The simulated flaking stands',
  'standin-rolls.mjs',
  ['--port', String(await freePort(15040)), '--control', String(await freePort(18040))],
  ended('The simulated flaking stands'),
);
const demo = [
  ...['--demo-kiln', `${kiln.told.modbusPort},${kiln.told.controlPort}`],
  ...['--demo-rolls', `${rolls.told.modbusPort},${rolls.told.controlPort}`],
];
const port = await freePort(portOption(4780));
const server = await startProgram(
  'The server',
  'server.mjs',
  ['--dev', '--port', String(port), '--data', join(root, '.demo-data'), ...demo],
  ended('The server'),
);
console.log(`Open at ${server.told.address}; pages follow your edits, the server side is built at start.`);
for (const signal of ['SIGINT', 'SIGTERM'])
  process.once(signal, () => void endPrograms(server.child, [kiln.child, rolls.child]).then(() => process.exit(0)));
