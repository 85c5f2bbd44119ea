/**
 * KILN, a simulated kiln controller: a process of its own that speaks Modbus TCP and has a control channel.
 * node dist/standin-kiln.mjs [--port N] [--control N] [--with-parent]; prints one JSON line when it listens.
 */
import { parseArgs } from 'node:util';
import { serveControl } from '../controlChannel.ts';
import type { Faults } from '../faults.ts';
import { endWithParent, listen } from '../listening.ts';
import { serveModbus } from '../modbusServer.ts';
import { kilnMemory } from './memory.ts';
import { newKiln, stepKiln } from './process.ts';

const { values: args } = parseArgs({
  options: { port: { type: 'string', default: '0' }, control: { type: 'string', default: '0' }, 'with-parent': { type: 'boolean', default: false } },
});
const STEP_MS = 100;

const kiln = newKiln();
const { memory, refresh, tell, set } = kilnMemory(kiln);
let faults: Faults = {};
const { server } = serveModbus(memory, [1, 255], () => faults);
let held = false;
const control = serveControl({ name: 'KILN', values: tell, hold: (on) => (held = on), set, fail: (ordered) => (faults = ordered) });

setInterval(() => {
  if (held) return;
  stepKiln(kiln, STEP_MS / 1000);
  refresh();
}, STEP_MS);

try {
  const modbusPort = await listen(server, Number(args.port));
  const controlPort = await listen(control, Number(args.control));
  console.log(JSON.stringify({ standin: 'KILN', modbusPort, controlPort }));
} catch (error) {
  console.error(`KILN cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}

endWithParent(args['with-parent']);
