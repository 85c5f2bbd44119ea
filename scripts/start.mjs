/** `npm start [-- --data FOLDER --port N]`: Mill Latch on the user's own data folder. */
import { build, endPrograms, fail, installPackages, keepServer, option, portOption } from './lib.mjs';

installPackages();
await build();
const data = option('data');
const server = await keepServer(['--port', String(portOption(4780)), ...(data ? ['--data', data] : [])], (code, signal) => {
  console.error(`The server ended (${signal ?? code}).`);
  process.exit(code ?? 1);
}).catch((error) => fail(error.message));
console.log(`Mill Latch is open at ${server.told.address}\nIts data lie in ${server.told.folder}\nCtrl-C ends it.`);
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void endPrograms(server.child).then(() => process.exit(0)));
