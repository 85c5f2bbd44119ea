/**
 * Tests the connection to a device stage by stage, on the connection that is there: many devices allow only one. A stage
 * that fails says what it means and what may be the cause; what follows it is skipped.
 */
import { networkInterfaces } from 'node:os';
import { isIPv4 } from 'node:net';
import { AREA_WORDS, formatArea, type Area } from '@/core/modbus/address.ts';
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import { identificationRequest, LIMITS, readRequest, reportRequest, type Reply } from '@/core/modbus/pdu.ts';
import type { CallContext, PointSpec, TestCause, TestStage } from '../contract.ts';
import type { Answer } from './channel.ts';
import { gatewayOf, hostOf } from './describe.ts';
import { diagnose } from './diagnose.ts';
import { identificationObjects, OBJECT_WORDS } from './identification.ts';
import { parseCanonical, registerBytesOf, unitsOf } from './notation.ts';
import { hostFailure } from './hostFailures.ts';
import { askOf } from './readGroup.ts';
import { TestWatch, type Target, type TestAccess } from './testWatch.ts';

const TIMED_READS = 50;

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
  const watch = new TestWatch(access);
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
      meaning: `${far} is in no subnet of this machine, so the connection goes through a router.`,
      causes: [
        {
          id: 'subnet',
          cause: 'This machine has no address beside the device',
          remedy: 'Without a router in between: give this machine an address in the subnet of the device.',
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
            remedy: 'Set what references count from, under Protocol options.',
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
  watch: TestWatch,
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

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
