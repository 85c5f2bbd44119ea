/**
 * PACK, a simulated bagging cell: a process of its own with a controller that knows its tags by name, and a control channel.
 * node dist/standin-pack.mjs [--port N] [--control N] [--more N] [--with-parent]; prints one JSON line when it listens.
 *
 * Beside the orders that all stand-ins take, { "set": { … } } knows what happens to a controller: "relay": true lays the structure of
 * a bagger out anew, "rename": "Name" gives the set point of the belt another name, "history": n makes an array shorter or longer,
 * "forget": true drops its connections of CIP, "mute": true lets it answer nothing any more.
 * --more gives its controller so many tags beside those of the cell, for who measures.
 */
import { parseArgs } from 'node:util';
import { serveControl } from '../controlChannel.ts';
import { endWithParent, listen } from '../listening.ts';
import { CipServer } from './cipServer.ts';
import { PackController } from './controllerTags.ts';
import { BAGGERS, newPack, stepPack } from './process.ts';
import { BOOL, DINT, INT, REAL } from './tagMemory.ts';

const { values: args } = parseArgs({
  options: {
    port: { type: 'string', default: '0' },
    control: { type: 'string', default: '0' },
    more: { type: 'string', default: '0' },
    'with-parent': { type: 'boolean', default: false },
  },
});
const STEP_MS = 100;
const LONGEST_HISTORY = 2000;

const pack = newPack();
const controller = new PackController(pack);
const KINDS = [DINT, REAL, INT, BOOL];
for (let i = 0; i < Number(args.more); i++)
  controller.memory.add('', `Measured_Value_${String(i).padStart(4, '0')}`, KINDS[i % KINDS.length] ?? DINT);
const cip = new CipServer(controller.memory);
let held = false;

const control = serveControl({
  name: 'PACK',
  values: () => {
    controller.takeOut();
    return controller.told();
  },
  hold: (on) => (held = on),
  set: (name, value) => {
    if (name === 'relay') controller.relay();
    else if (name === 'rename' && typeof value === 'string') return controller.renameSetPoint(value);
    else if (name === 'history' && Number.isInteger(value) && Number(value) > 0 && Number(value) <= LONGEST_HISTORY)
      controller.resizeHistory(Number(value));
    else if (name === 'forget') cip.forgetConnections();
    else if (name === 'mute' && typeof value === 'boolean') cip.traits.isMute = value;
    else if (!setProcess(name, value)) return false;
    controller.putIn();
    return true;
  },
  fail: () => undefined,
});

function setProcess(name: string, value: unknown): boolean {
  if (name === 'film_left' && typeof value === 'number') pack.filmLeft = value;
  else if (name === 'line_speed' && typeof value === 'number') pack.beltSpeed = value;
  else if (name === 'film_alarm' && typeof value === 'boolean') {
    if (value) pack.alarms.add(37);
    else pack.alarms.delete(37);
  } else {
    const [, number, what] = /^bagger_(\d)_(weight|fault|bags)$/.exec(name) ?? [];
    const bagger = pack.baggers[Number(number) - 1];
    if (!bagger || Number(number) > BAGGERS) return false;
    if (what === 'weight' && typeof value === 'number') bagger.weight = value;
    else if (what === 'bags' && typeof value === 'number') bagger.bags = value;
    else if (what === 'fault' && typeof value === 'boolean') bagger.hasFault = value;
    else return false;
  }
  return true;
}

setInterval(() => {
  controller.takeOut();
  if (!held) stepPack(pack, STEP_MS / 1000);
  controller.putIn();
}, STEP_MS);

try {
  const cipPort = await listen(cip.server, Number(args.port));
  await cip.answerBroadcasts(cipPort);
  const controlPort = await listen(control, Number(args.control));
  console.log(JSON.stringify({ standin: 'PACK', cipPort, controlPort }));
} catch (error) {
  console.error(`PACK cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}

endWithParent(args['with-parent']);
