/**
 * SCRATCH, a controller that can be of any make: it runs the block of known values and lays it out as it is told. Speaks Modbus TCP.
 * node dist/standin-scratch.mjs [--port N] [--control N] [--with-parent]; prints one JSON line when it listens.
 *
 * { "set": { "layout": { … } } } tells how it lays out memory from now on, { "set": { "program": "…" } } gives it a program to run.
 */
import { parseArgs } from 'node:util';
import { serveControl } from '../controlChannel.ts';
import type { Faults } from '../faults.ts';
import { endWithParent, listen } from '../listening.ts';
import { serveModbus } from '../modbusServer.ts';
import { fillBlock, type ScratchLayout } from './layout.ts';
import { parseProgram, type Program } from './program.ts';

const { values: args } = parseArgs({
  options: { port: { type: 'string', default: '0' }, control: { type: 'string', default: '0' }, 'with-parent': { type: 'boolean', default: false } },
});
const REGISTERS = 2000;
const PLAIN: ScratchLayout = {
  firstRegister: 0,
  counts: 'words',
  order16: 'AB',
  order32: 'ABCD',
  order64: 'ABCDEFGH',
  orderText: 'AB',
  structures: 'words',
  flags: 'words',
  texts: 'zero-ended',
  bitFrom: 'least',
  bitBase: 0,
  hasLong: true,
};

const holding = Buffer.alloc(REGISTERS * 2);
let layout = PLAIN;
let program: Program | null = null;
let faults: Faults = {};
const run = (): void => {
  if (program) fillBlock(program, layout, REGISTERS).copy(holding);
};
const { server } = serveModbus(
  {
    holding,
    input: Buffer.alloc(0),
    coils: new Uint8Array(0),
    discrete: new Uint8Array(0),
    missing: () => false,
    written: () => undefined,
    identity: ['made up', 'SCRATCH', '1'],
  },
  [1, 255],
  () => faults,
);
const control = serveControl({
  name: 'SCRATCH',
  values: () => ({ program: { value: program !== null, unit: '' } }),
  hold: () => undefined,
  set: (name, value) => {
    try {
      if (name === 'layout' && typeof value === 'object') layout = { ...PLAIN, ...value };
      else if (name === 'program' && typeof value === 'string') program = parseProgram(value);
      else return false;
      run();
      return true;
    } catch (error) {
      console.error(`SCRATCH: ${error instanceof Error ? error.message : String(error)}`);
      return false;
    }
  },
  fail: (ordered) => (faults = ordered),
});

try {
  const modbusPort = await listen(server, Number(args.port));
  const controlPort = await listen(control, Number(args.control));
  console.log(JSON.stringify({ standin: 'SCRATCH', modbusPort, controlPort }));
} catch (error) {
  console.error(`SCRATCH cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}

endWithParent(args['with-parent']);
