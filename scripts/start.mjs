/** `npm start [-- --data FOLDER --port N --restore BACKUP --as-it-is]`: Mill Latch on the user's own data folder. */
import { build, fail, installPackages, keepServer, option, portOption } from './lib.mjs';

installPackages();
await build();
const data = option('data');
const restore = option('restore');
const args = [
  ...['--port', String(portOption(4780))],
  ...(data ? ['--data', data] : []),
  ...(restore ? ['--restore', restore] : []),
  ...(process.argv.includes('--as-it-is') ? ['--as-it-is'] : []),
];
const server = await keepServer(args, (code, signal) => {
  console.error(`The server ended (${signal ?? code}).`);
  process.exit(code ?? 1);
}).catch((error) => fail(error.message));
console.log(`Mill Latch is open at ${server.told.address}\nIts data lie in ${server.told.folder}\nCtrl-C ends it.`);
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void server.end().then(() => process.exit(0)));
