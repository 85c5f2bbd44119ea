/**
 * Devices of a project as processes speak for them: node dist/standin-simulated.mjs --config FILE [--with-parent].
 * The file is JSON: { form: 'tcp' | 'rtu', speed, devices: [{ unit, name, tags }] }; prints one JSON line when it listens.
 */
import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { serveControl } from '../controlChannel.ts';
import type { Faults } from '../faults.ts';
import { endWithParent, listen } from '../listening.ts';
import { answerUnits } from '../modbusServer.ts';
import { rtuTalker, serveRtuOverTcp } from '../rtuServer.ts';
import { simulatedDevice } from './device.ts';
import type { SimulatedTag } from './value.ts';

export interface SimulationConfig {
  readonly form: 'tcp' | 'rtu';
  readonly speed: number;
  readonly devices: readonly { readonly unit: number; readonly name: string; readonly tags: readonly SimulatedTag[] }[];
}

const { values: args } = parseArgs({ options: { config: { type: 'string', default: '' }, 'with-parent': { type: 'boolean', default: false } } });
const config = JSON.parse(readFileSync(args.config, 'utf8')) as SimulationConfig;
const STEP_MS = 200;

const devices = config.devices.map((d) => ({ unit: d.unit, ...simulatedDevice(d.name, d.tags) }));
const units = new Map(devices.map((d) => [d.unit, d.memory]));
let faults: Faults = {};
let held = false;
const begun = Date.now();
setInterval(() => {
  if (!held) for (const device of devices) device.move((Date.now() - begun) / 1000);
}, STEP_MS);

const control = serveControl({
  name: 'simulation',
  values: () => Object.assign({}, ...devices.map((d) => d.tell())) as ReturnType<(typeof devices)[number]['tell']>,
  hold: (on) => (held = on),
  set: (name, value) => devices.some((d) => d.set(name, value)),
  fail: (ordered) => (faults = ordered),
});
const line = { speed: config.speed, bits: 11, turnaroundMs: 2 };
const server = config.form === 'tcp' ? answerUnits(units, () => faults).server : serveRtuOverTcp(() => rtuTalker(units, line, () => faults));

try {
  const port = await listen(server, 0);
  const controlPort = await listen(control, 0);
  console.log(JSON.stringify({ standin: 'simulation', port, controlPort }));
} catch (error) {
  console.error(`The simulation cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}
endWithParent(args['with-parent']);
