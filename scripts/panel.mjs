/** `npm run panel [-- --data FOLDER --port N --name NAME --address ADDRESS --steady SECONDS]`: a panel host on the machine, without the bench. */
import { build, fail, installPackages, keepServer, option, portOption } from './lib.mjs';

installPackages();
await build();
const given = (name) => (option(name) ? [`--${name}`, option(name)] : []);
const args = ['--port', String(portOption(4790)), ...given('data'), ...given('name'), ...given('address'), ...given('steady')];
const onEnd = (code, signal) => {
  console.error(`The panel host ended (${signal ?? code}).`);
  process.exit(code ?? 1);
};
const host = await keepServer(args, onEnd, 'panelHost.mjs', 'The panel host').catch((error) => fail(error.message));
console.log(
  `The panel host “${host.told.name}” shows its panel at ${host.told.address}, and what it is at ${host.told.address}/host\nIts data lie in ${host.told.folder}\nCtrl-C ends it.`,
);
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void host.end().then(() => process.exit(0)));
