/**
 * Tests the way to a device stage by stage, on the connection that is there: many devices allow only one. A stage
 * that fails says what it means and what may be the cause; what follows it is skipped.
 */
import { networkInterfaces } from 'node:os';
import { isIPv4 } from 'node:net';
import { AREA_WORDS, formatArea, type Area } from '@/core/modbus/address.ts';
import { crc16 } from '@/core/modbus/checkSums.ts';
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import { identificationRequest, LIMITS, readRequest, reportRequest, type Reply } from '@/core/modbus/pdu.ts';
import type { Problem } from '@/core/result.ts';
import type { CallContext, DriverDescription, DriverFault, FrameEvent, FrameOddity, PointSpec, Settings, TestCause, TestStage } from '../contract.ts';
import type { Answer } from './channel.ts';
import { gatewayOf, hostOf } from './describe.ts';
import { diagnose, type Evidence } from './diagnose.ts';
import { identificationObjects, OBJECT_WORDS } from './identification.ts';
import { parseCanonical, registerBytesOf, unitsOf } from './notation.ts';
import { askOf, type DeviceAccess } from './readGroup.ts';

export interface TestAccess extends DeviceAccess {
  readonly description: DriverDescription;
  readonly link: Settings;
  readonly settingsProblem: Problem | null;
  /** Null when the connection stands, else why it does not. */
  readonly connected: () => Promise<Problem | null>;
  /** Hears of every frame of the link until what it returns is called. */
  readonly tap: (listener: (frame: FrameEvent) => void) => () => void;
}

const TIMED_READS = 50;
/** How long a late reply is waited for after a time-out, to tell slow from silent. */
const LATE_WAIT_MS = 3000;
const FRAMES_KEPT = 12;

interface Target {
  readonly area: Area;
  readonly start: number;
  readonly count: number;
  readonly registerBytes: 2 | 4;
}

export async function* testConnection(access: TestAccess, points: readonly PointSpec[], context: CallContext): AsyncIterable<TestStage> {
  const targets = targetsOf(access, points);
  const first = targets[0] ?? { area: 'HR', start: 0, count: 1, registerBytes: 2 };
  const areas = targets.map((t): readonly [string, string] => [`area ${t.area}`, capital(`${AREA_WORDS[t.area]}s`)]);
  const plan = new Map<string, string>([
    ['settings', 'Settings'],
    ['host', access.description.id === 'modbus-serial' ? 'Port' : 'Host'],
    ['protocol', 'Protocol'],
    ['unit', 'Unit'],
    ...areas,
    ['identification', 'Identification'],
    ['times', 'Round trips'],
  ]);
  const watch = new Watch(access);
  try {
    let begun = access.now();
    const stage = (id: string, told: Pick<TestStage, 'state' | 'seen'> & Partial<TestStage>): TestStage => {
      const now = access.now();
      const made = { id, title: plan.get(id) ?? id, ms: Math.max(0, now - begun), frames: watch.frames(), ...told };
      begun = now;
      plan.delete(id);
      return made;
    };
    const skipRest = (): TestStage[] => [...plan].map(([id, title]) => ({ id, title, ms: 0, state: 'skipped', seen: 'not reached' }));
    const ask = (target: Target, over: { readonly unit?: number } = {}): Promise<Answer> =>
      access.channel.transact({
        ...askOf(access, readRequest(target.area, target.start, target.count), context),
        registerBytes: target.registerBytes,
        isUrgent: true,
        ...over,
      });

    const settings = checkSettings(access);
    yield stage('settings', settings);
    if (settings.state === 'failed') return yield* skipRest();

    const hostProblem = await access.connected();
    if (hostProblem) {
      yield stage('host', { state: 'failed', seen: hostProblem.message, ...hostFailure(hostProblem) });
      return yield* skipRest();
    }
    yield stage('host', { state: 'passed', seen: `${access.description.target(access.link)} is open` });

    watch.clear();
    const answer = await ask(first);
    if (!answer.ok) await watch.waitForLate(answer.fault);
    const speaks = answer.ok || (await watch.othersAnswer(ask, first));
    const evidence = watch.evidence(answer);
    if (!speaks) {
      yield stage('protocol', { state: 'failed', seen: silenceInWords(answer), ...(diagnose(evidence) ?? lost(answer)) });
      return yield* skipRest();
    }
    if (!answer.ok) {
      yield stage('protocol', { state: 'passed', seen: 'Modbus is spoken here' });
      yield stage('unit', { state: 'failed', seen: silenceInWords(answer), ...(diagnose({ ...evidence, othersAnswer: true }) ?? lost(answer)) });
      return yield* skipRest();
    }
    const isGateway = answer.reply.kind === 'exception' && (answer.reply.code === 0x0a || answer.reply.code === 0x0b);
    yield stage('protocol', {
      state: 'passed',
      seen:
        answer.reply.kind === 'exception'
          ? `an exception came back after ${answer.roundTripMs.toFixed(2)} ms, which proves that Modbus is spoken`
          : `a valid reply after ${answer.roundTripMs.toFixed(2)} ms`,
    });
    if (isGateway && answer.reply.kind === 'exception') {
      const causes = (diagnose({ ...evidence, medium: 'line', silent: 1, answered: 0, othersAnswer: false })?.causes ?? []).slice();
      yield stage('unit', {
        state: 'failed',
        seen: exceptionInWords(answer.reply.code),
        meaning: 'The gateway answers for a unit that does not.',
        causes: causes.sort((a, b) => Number(b.id === 'unit') - Number(a.id === 'unit')),
      });
      return yield* skipRest();
    }
    const oddity = diagnose(evidence);
    const echo = watch.count('echo') > 0 ? 'The adapter sends back what we send; it is taken off.' : null;
    yield stage('unit', {
      state: oddity || echo ? 'noted' : 'passed',
      seen: [`unit ${access.unit} answers`, echo].filter(Boolean).join('. '),
      ...(oddity ?? (echo ? { meaning: echo, causes: [ECHO_CAUSE] } : {})),
    });

    for (const target of targets) {
      if (target !== first) watch.clear();
      const read = target === first ? answer : await ask(target);
      yield stage(
        `area ${target.area}`,
        read.ok ? areaStage(access, target, read.reply) : { state: 'failed', seen: silenceInWords(read), ...diagnose(watch.evidence(read)) },
      );
    }
    yield stage('identification', await identify(access, context));
    watch.clear();
    yield stage('times', await times(access, () => ask(first), watch, context));
  } finally {
    watch.end();
  }
}

/** What came over the link since the test, or its stage, began. */
class Watch {
  readonly #access: TestAccess;
  readonly #end: () => void;
  #frames: FrameEvent[] = [];
  #sentAt: number | null = null;
  #latestMs: number | null = null;
  #others = false;

  constructor(access: TestAccess) {
    this.#access = access;
    this.#end = access.tap((frame) => {
      const unit = this.#unitOf(frame);
      const isOthers = frame.direction === 'received' && unit !== null && unit !== access.unit;
      if (isOthers && (frame.oddity === undefined || frame.oddity === 'late')) this.#others = true;
      // That another unit is slow says nothing of this one.
      if (isOthers && frame.oddity === 'late') return;
      this.#frames.push(frame);
      if (frame.direction === 'sent' && unit === access.unit) this.#sentAt ??= frame.at;
      if (frame.oddity === 'late' && this.#sentAt !== null) this.#latestMs = frame.at - this.#sentAt;
    });
  }

  end(): void {
    this.#end();
  }

  clear(): void {
    this.#frames = [];
    this.#sentAt = null;
    this.#latestMs = null;
  }

  /** The last frames of this device, and whatever was odd. */
  frames(): readonly FrameEvent[] {
    return this.#frames.filter((f) => f.oddity !== undefined || this.#unitOf(f) === this.#access.unit).slice(-FRAMES_KEPT);
  }

  count(oddity: FrameOddity): number {
    return this.#frames.filter((f) => f.oddity === oddity).length;
  }

  /** After a silence: waits until something late has come, or until it no longer will. */
  async waitForLate(fault: DriverFault): Promise<void> {
    if (fault.kind !== 'silent') return;
    const end = this.#access.now() + Math.min(LATE_WAIT_MS, 3 * this.#access.dialect.timeoutMs);
    while (this.#access.now() < end && !this.#frames.some((f) => f.direction === 'received' && f.oddity !== undefined)) await rest(20);
  }

  /** Whether another unit answers: one that is read anyway, or on a network one of the usual numbers. */
  async othersAnswer(ask: (target: Target, over: { readonly unit?: number }) => Promise<Answer>, target: Target): Promise<boolean> {
    if (this.#others) return true;
    if (this.#access.channel.maxDepth === 1) {
      // Others of the line are asked in turn by themselves.
      const end = this.#access.now() + Math.min(1000, this.#access.dialect.timeoutMs);
      while (this.#access.now() < end && !this.#others) await rest(20);
      return this.#others;
    }
    if (this.#frames.some((f) => f.direction === 'received')) return false;
    for (const unit of [255, 1, 0])
      if (unit !== this.#access.unit && !this.#others && this.#access.channel.state.phase === 'connected') {
        const answer = await ask(target, { unit });
        if (answer.ok && !(answer.reply.kind === 'exception' && answer.reply.code >= 0x0a)) this.#others = true;
      }
    return this.#others;
  }

  evidence(answer: Answer, answered = answer.ok ? 1 : 0): Evidence {
    const oddities: Partial<Record<FrameOddity, number>> = {};
    for (const { oddity } of this.#frames) if (oddity) oddities[oddity] = (oddities[oddity] ?? 0) + 1;
    const strangers = this.#frames.flatMap((f) => (f.oddity === 'stranger' ? (this.#unitOf(f) ?? []) : []));
    return {
      medium: this.#access.description.id === 'modbus-serial' ? 'line' : this.#access.description.id === 'modbus-gateway' ? 'gateway' : 'network',
      unit: this.#access.unit,
      timeoutMs: this.#access.dialect.timeoutMs,
      answered,
      silent: !answer.ok && answer.fault.kind === 'silent' ? 1 : 0,
      damaged: !answer.ok && answer.fault.kind === 'malformed' ? 1 : 0,
      oddities,
      latestMs: this.#latestMs,
      strangers: [...new Set(strangers)],
      othersAnswer: this.#others,
      isSerialFrame: this.#frames.some((f) => f.oddity === 'protocol' && isSerialFrame(f.bytes)),
    };
  }

  #unitOf(frame: FrameEvent): number | null {
    return this.#access.description.dissect?.(this.#access.link, frame.direction, frame.bytes).unit ?? null;
  }
}

function isSerialFrame(bytes: Uint8Array): boolean {
  const end = bytes.length - 2;
  return end >= 2 && crc16(bytes, 0, end) === ((bytes[end] ?? 0) | ((bytes[end + 1] ?? 0) << 8));
}

/** One value of each area in use: that of its first tag. */
function targetsOf({ dialect }: TestAccess, points: readonly PointSpec[]): readonly Target[] {
  const found = new Map<Area, Target>();
  for (const { canonical, type } of points) {
    const address = parseCanonical(canonical);
    if (!address || found.has(address.area)) continue;
    const count = Math.min(unitsOf(address, type, dialect), LIMITS.readRegisters);
    found.set(address.area, { area: address.area, start: address.offset, count, registerBytes: registerBytesOf(type, dialect) });
  }
  return [...found.values()];
}

function checkSettings(access: TestAccess): Pick<TestStage, 'state' | 'seen'> & Partial<TestStage> {
  const { settingsProblem, description, link, dialect, unit } = access;
  if (settingsProblem)
    return {
      state: 'failed',
      seen: settingsProblem.message,
      meaning: 'These settings cannot be used.',
      causes: [{ id: 'settings', cause: settingsProblem.message, remedy: settingsProblem.remedy ?? 'Correct the field.' }],
    };
  const seen = `${description.target(link)}, unit ${unit}, ${dialect.timeoutMs} ms to answer`;
  const gatewayMs = description.id === 'modbus-gateway' ? gatewayOf(link).gatewayMs : 0;
  if (gatewayMs > 0 && gatewayMs >= dialect.timeoutMs)
    return {
      state: 'noted',
      seen,
      meaning: `The gateway waits ${gatewayMs} ms for a unit, we wait ${dialect.timeoutMs} ms: its word comes when the request has been given up.`,
      causes: [
        {
          id: 'gateway-late',
          cause: 'The gateway waits longer than we do',
          remedy: 'Raise the time-out of the device, or lower that of the gateway.',
        },
      ],
    };
  const far = description.id === 'modbus-serial' ? null : farSubnet(hostOf(link).host);
  if (far)
    return {
      state: 'noted',
      seen,
      meaning: `${far} is in no subnet of this machine, so the way leads over a router.`,
      causes: [
        {
          id: 'subnet',
          cause: 'This machine has no address beside the device',
          remedy: 'Without a router on the access: give this machine an address in the subnet of the device.',
        },
      ],
    };
  return { state: 'passed', seen };
}

/** The host when it is an IPv4 address that no adapter reaches directly. */
function farSubnet(host: string): string | null {
  if (!isIPv4(host)) return null;
  const number = (text: string): number => text.split('.').reduce((n, part) => n * 256 + Number(part), 0);
  const near = Object.values(networkInterfaces())
    .flat()
    .some((a) => {
      if (a?.family !== 'IPv4') return false;
      const size = 2 ** (32 - Number(a.cidr?.split('/')[1] ?? 32));
      return Math.floor(number(a.address) / size) === Math.floor(number(host) / size);
    });
  return near ? null : host;
}

function silenceInWords(answer: Answer): string {
  return answer.ok ? '' : answer.fault.problem.message;
}

function lost(answer: Answer): { readonly meaning: string; readonly causes: readonly TestCause[] } {
  const remedy = (answer.ok ? null : answer.fault.problem.remedy) ?? 'Try again.';
  return { meaning: 'The connection ended before an answer came.', causes: [{ id: 'lost', cause: 'The other side ended the connection', remedy }] };
}

const ECHO_CAUSE: TestCause = {
  id: 'echo',
  cause: 'A two-wire adapter hears itself',
  remedy: 'Nothing needs doing; switching its echo off spares half the time on the line.',
};

function areaStage(access: TestAccess, target: Target, reply: Reply): Pick<TestStage, 'state' | 'seen'> & Partial<TestStage> {
  const name = formatArea({ area: target.area, offset: target.start, bit: null });
  const place = target.count > 1 ? `${name}–${target.start + target.count - 1}` : name;
  if (reply.kind === 'data')
    return { state: 'passed', seen: `${place} holds ${Array.from(reply.data, (b) => b.toString(16).toUpperCase().padStart(2, '0')).join(' ')}` };
  const base = access.dialect.countingBase;
  const causes: readonly TestCause[] =
    reply.code === 2
      ? [
          { id: 'address', cause: 'The device has nothing at this address', remedy: 'Compare it with the list of the device.' },
          {
            id: 'base',
            cause: `Reference numbers start at ${1 - base} instead of ${base}`,
            remedy: 'Set what references count from, in the dialect.',
          },
          {
            id: 'area',
            cause: 'It lies in another area',
            remedy: 'Try input registers where holding registers were asked for, or the other way round.',
          },
        ]
      : [{ id: `exception-${reply.code}`, cause: exceptionInWords(reply.code), remedy: 'Look the exception up in the manual of the device.' }];
  return {
    state: 'failed',
    seen: `${place}: ${exceptionInWords(reply.code)}`,
    meaning: 'The device speaks Modbus and refuses this address.',
    causes,
  };
}

/** Function 43 (V1.1b3, 6.21): basic objects. Many devices do not know it, which is no failure. */
async function identify(access: TestAccess, context: CallContext): Promise<Pick<TestStage, 'state' | 'seen'> & Partial<TestStage>> {
  const answer = await access.channel.transact({ ...askOf(access, identificationRequest(1, 0), context), isUrgent: true });
  if (!answer.ok) return { state: 'noted', seen: `no identification: ${silenceInWords(answer)}` };
  if (answer.reply.kind === 'exception') {
    // Function 17 is older, and its form the maker's own: what can be read of it is shown.
    const report = await access.channel.transact({ ...askOf(access, reportRequest(), context), isUrgent: true });
    const text = report.ok && report.reply.kind === 'data' ? printable(report.reply.data) : '';
    return text ? { state: 'passed', seen: `it reports “${text}”` } : { state: 'noted', seen: 'the device does not tell what it is' };
  }
  const objects = identificationObjects(answer.reply.data);
  return {
    state: 'passed',
    seen: [...objects].map(([id, text]) => `${OBJECT_WORDS[id] ?? `object ${id}`} “${text}”`).join(', ') || 'it tells nothing of itself',
  };
}

/** The longest run of characters in bytes. */
function printable(data: Uint8Array): string {
  const runs = String.fromCharCode(...data).match(/[\x20-\x7e]{3,}/g) ?? [];
  return runs.reduce((longest, run) => (run.length > longest.length ? run : longest), '').trim();
}

async function times(
  access: TestAccess,
  ask: () => Promise<Answer>,
  watch: Watch,
  context: CallContext,
): Promise<Pick<TestStage, 'state' | 'seen'> & Partial<TestStage>> {
  const took: number[] = [];
  let missing = 0;
  let last: Answer | null = null;
  let reads = 0;
  for (; reads < TIMED_READS && access.now() < context.deadline - access.dialect.timeoutMs && !context.signal.aborted; reads++) {
    last = await ask();
    if (last.ok) took.push(last.roundTripMs);
    else missing++;
    if (missing >= 5) break;
  }
  took.sort((a, b) => a - b);
  const at = (part: number): string => (took[Math.min(took.length - 1, Math.floor(took.length * part))] ?? 0).toFixed(2);
  const seen = `${took.length} of ${reads} reads answered: ${at(0)} ms at best, ${at(0.5)} ms at the median, ${at(0.95)} ms for 95 %, ${at(1)} ms at worst`;
  const evidence = last && watch.evidence(last, took.length);
  const diagnosis = evidence && diagnose({ ...evidence, silent: missing });
  if (!diagnosis) return { state: 'passed', seen };
  return { state: missing > reads / 10 ? 'failed' : 'noted', seen, ...diagnosis };
}

function hostFailure(problem: Problem): { readonly meaning: string; readonly causes: readonly TestCause[] } {
  const known = HOST_FAILURES[problem.code];
  if (!known)
    return {
      meaning: 'No connection came about.',
      causes: [{ id: problem.code, cause: problem.message, remedy: problem.remedy ?? 'Check address and port.' }],
    };
  return { meaning: known.meaning, causes: known.causes.map(([cause, remedy]) => ({ id: problem.code, cause, remedy })) };
}

const HOST_FAILURES: Readonly<Record<string, { readonly meaning: string; readonly causes: readonly (readonly [cause: string, remedy: string])[] }>> =
  {
    'host-refused': {
      meaning: 'The machine is there, but it takes no connection on this port.',
      causes: [
        ['The port is another one', 'Compare the port with the manual; 502 is usual.'],
        ['Modbus is switched off in the device', 'Switch Modbus TCP on in its settings.'],
        ['A simulated device is not running', 'Start it.'],
      ],
    },
    'host-unreachable': {
      meaning: 'No route leads from this machine to that address.',
      causes: [
        ['The address is another one', 'Compare it with the device.'],
        ['This machine is in another subnet', 'Give it an address in the subnet of the device.'],
        ['The cable is not plugged in', 'Check cable and switch.'],
      ],
    },
    'host-unknown': {
      meaning: 'The name could not be turned into an address.',
      causes: [['The name is misspelt or not known here', 'Use the IP address.']],
    },
    'host-silent': {
      meaning: 'Nothing came back from that address.',
      causes: [
        ['The device is off, or its address is another one', 'Check its supply and its address.'],
        ['The cable is not plugged in', 'Check cable and switch.'],
        ['A firewall is in between', 'Check firewalls on the access.'],
      ],
    },
    'closed-by-peer': {
      meaning: 'The device took the connection and ended it.',
      causes: [
        ['Another program holds its only connection', 'Close other programs that talk to it.'],
        ['This machine is not on its list of allowed hosts', 'Check that list in the device.'],
      ],
    },
    malformed: {
      meaning: 'Something else than Modbus TCP answers on this port.',
      causes: [
        ['Another service listens on this port', 'Compare the port with the manual.'],
        ['The gateway passes serial frames on without translating', 'Make the link through a serial gateway instead.'],
      ],
    },
    silent: {
      meaning: 'The connection stands, but requests are no longer answered.',
      causes: [
        ['The device hangs, or a gateway waits for its line', 'Check the device, and the line behind a gateway.'],
        ['The unit number is another one', 'Compare it with the device.'],
      ],
    },
    'port-missing': {
      meaning: 'This machine has no such port.',
      causes: [['The adapter is not plugged in, or has another name', 'Choose one of the ports listed; names under by-id stay.']],
    },
    'port-forbidden': {
      meaning: 'The port is there and may not be opened.',
      causes: [['This user has no right to it', 'Add the user to the group dialout, and log in again.']],
    },
    'port-in-use': {
      meaning: 'The port belongs to another program now.',
      causes: [['Another program holds it', 'Close that program, or the other link on this port.']],
    },
    'port-gone': { meaning: 'The port has vanished.', causes: [['The adapter was unplugged', 'Plug it in again; the link comes back by itself.']] },
  };

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

function rest(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
