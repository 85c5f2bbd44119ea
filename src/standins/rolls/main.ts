/**
 * ROLLS, eight simulated flaking stands as units 1 to 8 of one serial line: RTU frames through a TCP connection, and
 * on a pseudo-terminal when one is named.
 * node dist/standin-rolls.mjs [--port N] [--control N] [--speed N] [--serial PATH [--peer PATH]] [--with-parent]
 * With --peer it reads the speed that the other end of the pseudo-terminal has set: at another one it hears nothing.
 */
import { execFile } from 'node:child_process';
import { parseArgs } from 'node:util';
import { SerialPort } from 'serialport';
import { serveControl } from '../controlChannel.ts';
import type { Faults } from '../faults.ts';
import { endWithParent, listen } from '../listening.ts';
import { rtuTalker, serveRtuOverTcp, type Line } from '../rtuServer.ts';
import { standMemory, tellStand } from './memory.ts';
import { newStand, stepStand } from './process.ts';

const { values: args } = parseArgs({
  options: {
    port: { type: 'string', default: '0' },
    control: { type: 'string', default: '0' },
    speed: { type: 'string', default: '19200' },
    serial: { type: 'string' },
    peer: { type: 'string' },
    'with-parent': { type: 'boolean', default: false },
  },
});
const STEP_MS = 200;
const STANDS = 8;

const stands = Array.from({ length: STANDS }, (_, i) => newStand(i + 1));
const memories = stands.map((stand, i) => standMemory(stand, i + 1));
const units = new Map(memories.map(({ memory }, i) => [i + 1, memory]));
// 8E1: eleven bits a character.
const line: Line = { speed: Number(args.speed), bits: 11, turnaroundMs: 3 };
let faults: Faults = {};
let held = false;
/** Whether the other end of the pseudo-terminal has another speed. */
let isMismatched = false;

const control = serveControl({
  name: 'ROLLS',
  values: () => Object.assign({}, ...stands.map((stand, i) => tellStand(stand, i + 1))) as ReturnType<typeof tellStand>,
  hold: (on) => (held = on),
  set: (name, value) => {
    const [, n, what] = /^s([1-8])_(running|engaged|gap_sp)$/.exec(name) ?? [];
    const stand = stands[Number(n) - 1];
    if (!stand || (what === 'gap_sp') !== (typeof value === 'number')) return false;
    if (typeof value === 'number') stand.gapSp = value;
    else if (what === 'running') stand.isRunning = value === true;
    else stand.isEngaged = value === true;
    return true;
  },
  fail: (ordered) => (faults = ordered),
});

setInterval(() => {
  if (held) return;
  for (const [i, stand] of stands.entries()) {
    stepStand(stand, STEP_MS / 1000);
    memories[i]?.refresh();
  }
}, STEP_MS);

const { peer, serial: path } = args;
if (path !== undefined) {
  const talk = rtuTalker(units, line, () => (isMismatched ? { ...faults, parity: true } : faults));
  const serial = new SerialPort({ path, baudRate: line.speed, parity: 'even' });
  serial.on('data', (chunk: Buffer) => talk(chunk, (bytes) => void serial.write(bytes)));
  serial.on('error', (error) => console.error(`ROLLS has lost its line: ${error.message}`));
}
if (peer !== undefined)
  setInterval(() => {
    execFile('stty', ['-F', peer, 'speed'], (error, out) => {
      if (!error) isMismatched = Number(out) !== line.speed;
    });
  }, 250);

try {
  const modbusPort = await listen(
    serveRtuOverTcp(() => rtuTalker(units, line, () => faults)),
    Number(args.port),
  );
  const controlPort = await listen(control, Number(args.control));
  console.log(JSON.stringify({ standin: 'ROLLS', modbusPort, controlPort }));
} catch (error) {
  console.error(`ROLLS cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}
endWithParent(args['with-parent']);
