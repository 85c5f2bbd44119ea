/**
 * CALLER, a controller whose program commands the pages of a panel through an array, and checks the answers. Speaks Modbus TCP.
 * node dist/standin-caller.mjs [--port N] [--control N] [--with-parent]; prints one JSON line when it listens.
 *
 * Its program, in holding registers: 0 the page it wants, 1 a request that it counts up; 10 the result, 11 the answer, 12 the page
 * shown, 13 the life counter, 14 keys as bits, 15 the level; 20 to 25 its clock, year to second; coil 0 asks for the time, 30 to 35 take it.
 * 100 how many recipes there are, 102, 107, 112, 117, 122 their names of ten characters, 101 the number that is picked, 130 the name.
 * { "set": { "recipes": "OATS|BARLEY" } } has it put other names there.
 * Coils 2 to 15 are jams and acknowledgements of alarms; { "set": { "coil2": true } } has it turn one on.
 * { "set": { "call": "0 2 7" } } has it command these pages one after the other, each once the one before is answered;
 * { "set": { "storm": n } } has it command pages 0 and 1 in turn, n times within a second, waiting for nothing.
 */
import { parseArgs } from 'node:util';
import { serveControl } from '../controlChannel.ts';
import type { Faults } from '../faults.ts';
import { endWithParent, listen } from '../listening.ts';
import { serveModbus } from '../modbusServer.ts';

const { values: args } = parseArgs({
  options: { port: { type: 'string', default: '0' }, control: { type: 'string', default: '0' }, 'with-parent': { type: 'boolean', default: false } },
});
const [WANTED, REQUEST, RESULT, ANSWER, PAGE, LIFE, KEYS, LEVEL, OWN_CLOCK, TOLD_CLOCK] = [0, 1, 10, 11, 12, 13, 14, 15, 20, 30];
const PATIENCE_MS = 8000;
const CYCLE_MS = 5;

const holding = Buffer.alloc(400);
const coils = new Uint8Array(16);
const register = (at: number): number => holding.readUInt16BE(at * 2);
const put = (at: number, value: number): void => void holding.writeUInt16BE(value & 0xffff, at * 2);

/** Names of ten characters lie five words apart, filled up with zeros. */
const [COUNT, PICKED, NAMES, NAME_WORDS, PICKED_NAME] = [100, 101, 102, 5, 130];
function putRecipes(names: readonly string[]): void {
  put(COUNT, names.length);
  for (const [i, name] of names.entries()) {
    holding.fill(0, (NAMES + i * NAME_WORDS) * 2, (NAMES + (i + 1) * NAME_WORDS) * 2);
    holding.write(name, (NAMES + i * NAME_WORDS) * 2, NAME_WORDS * 2, 'latin1');
  }
}
putRecipes(['THIN', 'REGULAR', 'JUMBO']);

let faults: Faults = {};
let calls: number[] = [];
let called: { readonly page: number; readonly request: number; readonly at: number } | null = null;
/** What came of each call: page, result, milliseconds until the answer. */
let answers: string[] = [];
let calledAt = 0;
let keyChanges: string[] = [];
let wasKeys = 0;

function call(page: number): void {
  // A program writes its words in this order, so that the request is never seen before its page.
  put(WANTED, page);
  put(REQUEST, register(REQUEST) + 1);
  calledAt = Date.now();
  called = { page, request: register(REQUEST), at: Date.now() };
}

setInterval(() => {
  const time = new Date();
  for (const [at, part] of [2026, 3, 1, time.getHours(), time.getMinutes(), time.getSeconds()].entries()) put(OWN_CLOCK + at, part);
  if (called && (register(ANSWER) === called.request || Date.now() - called.at > PATIENCE_MS)) {
    const result = register(ANSWER) === called.request ? String(register(RESULT)) : 'none';
    answers.push(`${called.page}:${result}:${Date.now() - called.at}`);
    called = null;
  }
  const next = called ? undefined : calls.shift();
  if (next !== undefined) call(next);
}, CYCLE_MS);

function storm(count: number): void {
  let sent = 0;
  const timer = setInterval(() => {
    for (let i = 0; i < count / 200 && sent < count; i++) call(sent++ % 2);
    if (sent >= count) clearInterval(timer);
  }, CYCLE_MS);
}

const { server } = serveModbus(
  {
    holding,
    input: Buffer.alloc(0),
    coils,
    discrete: new Uint8Array(0),
    missing: () => false,
    written: () => {
      if (register(KEYS) === wasKeys) return;
      wasKeys = register(KEYS);
      keyChanges.push(`${wasKeys}:${Date.now()}`);
    },
    identity: ['made up', 'CALLER', '1'],
  },
  [1, 255],
  () => faults,
);
const told = (value: number | boolean | string) => ({ value, unit: '' });
const control = serveControl({
  name: 'CALLER',
  values: () => ({
    answers: told(answers.join(' ')),
    calledAt: told(calledAt),
    waits: told(called !== null || calls.length > 0),
    request: told(register(REQUEST)),
    result: told(register(RESULT)),
    answer: told(register(ANSWER)),
    page: told(register(PAGE)),
    life: told(register(LIFE)),
    keys: told(register(KEYS)),
    level: told(register(LEVEL)),
    coils: told(coils.join('')),
    keyChanges: told(keyChanges.join(' ')),
    picked: told(register(PICKED)),
    pickedName: told(holding.toString('latin1', PICKED_NAME * 2, (PICKED_NAME + NAME_WORDS) * 2).replaceAll('\0', '')),
    time: told(Array.from({ length: 6 }, (_, i) => register(TOLD_CLOCK + i)).join(' ')),
  }),
  hold: () => undefined,
  set: (name, value) => {
    if (name === 'call' && typeof value === 'string') {
      answers = [];
      calls = value.split(' ').map(Number);
    } else if (name === 'storm' && typeof value === 'number') storm(value);
    else if (/^coil\d+$/.test(name) && typeof value === 'boolean') coils[Number(name.slice(4))] = value ? 1 : 0;
    else if (name === 'askTime' && typeof value === 'boolean') coils[0] = value ? 1 : 0;
    else if (name === 'recipes' && typeof value === 'string') putRecipes(value.split('|'));
    else if (name === 'watchKeys' && value === true) keyChanges = [];
    else return false;
    return true;
  },
  fail: (ordered) => (faults = ordered),
});

try {
  const modbusPort = await listen(server, Number(args.port));
  const controlPort = await listen(control, Number(args.control));
  console.log(JSON.stringify({ standin: 'CALLER', modbusPort, controlPort }));
} catch (error) {
  console.error(`CALLER cannot listen: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
}

endWithParent(args['with-parent']);
