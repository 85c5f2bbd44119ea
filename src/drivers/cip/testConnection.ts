/** Tests the way to a controller stage by stage: host, session, adapter, processor, connection, one value. Each failure with what it means. */
import { SERVICE } from '@/core/cip/message.ts';
import { statusInWords } from '@/core/cip/status.ts';
import { symbolsRequest } from '@/core/cip/symbols.ts';
import type { Problem } from '@/core/result.ts';
import type { Arrival, CallContext, Clock, DeviceSession, PointSpec, TestStage } from '../contract.ts';
import type { EipChannel } from './eipChannel.ts';
import { refusal, type Target } from './target.ts';

export interface ControllerTest {
  readonly channel: EipChannel;
  readonly target: Target;
  readonly device: DeviceSession;
  readonly clock: Clock;
  readonly timeoutMs: number;
  /** Why the route cannot be used. */
  readonly problem: Problem | null;
  readonly points: readonly PointSpec[];
}

interface Came {
  readonly state?: TestStage['state'];
  readonly seen: string;
  readonly meaning?: string;
  readonly problem?: Problem;
}

const TITLES = {
  settings: 'Settings',
  session: 'Host and session',
  adapter: 'Adapter',
  processor: 'Processor at the end of the route',
  connection: 'Connection',
  tags: 'Tags',
  read: 'One value read',
} as const;
const CONNECT_MS = 5000;

export async function* testController(test: ControllerTest, context: CallContext): AsyncGenerator<TestStage> {
  const { clock } = test;
  const steps: readonly (readonly [keyof typeof TITLES, () => Promise<Came>])[] = [
    ['settings', () => Promise.resolve(test.problem ? failed(test.problem, 'The route cannot be used.') : { seen: 'route and options can be used' })],
    ['session', () => sessionStage(test)],
    ['adapter', () => adapterStage(test, context)],
    ['processor', () => processorStage(test, context)],
    ['connection', () => connectionStage(test, context)],
    ['tags', () => tagsStage(test, context)],
    ['read', () => readStage(test, context)],
  ];
  let isOver = false;
  for (const [id, run] of steps) {
    const title = TITLES[id];
    if (isOver) {
      yield { id, title, state: 'skipped', ms: 0, seen: 'not reached' };
      continue;
    }
    const begun = clock.now();
    const { problem, state = 'passed', ...told } = await run();
    isOver = state === 'failed';
    const causes = problem
      ? { causes: [{ id: problem.code, cause: problem.message.replace(/\.$/, ''), remedy: problem.remedy ?? 'Look at the frames in the trace.' }] }
      : {};
    yield { id, title, state, ms: Math.max(0, clock.now() - begun), ...told, ...causes };
  }
}

async function sessionStage({ channel, clock }: ControllerTest): Promise<Came> {
  const until = clock.now() + CONNECT_MS;
  while (channel.state.phase === 'connecting' && clock.now() < until) await new Promise<void>((resolve) => void clock.after(50, resolve));
  if (channel.state.phase === 'connected') return { seen: 'the host gives a session' };
  const problem = channel.state.problem ?? { code: 'no-session', message: 'No session came about.', remedy: 'Check host and port.' };
  return failed(problem, 'The host was not reached, or is none of EtherNet/IP.');
}

async function adapterStage({ channel, timeoutMs }: ControllerTest, { deadline, signal }: CallContext): Promise<Came> {
  const identity = await channel.identity({ timeoutMs, deadline, signal });
  return identity.ok
    ? { seen: `${identity.value.product}, revision ${identity.value.revision}, serial ${identity.value.serial}` }
    : { state: 'noted', seen: 'it does not say who it is', meaning: 'Some adapters do not answer that; what follows may work all the same.' };
}

async function processorStage({ device }: ControllerTest, context: CallContext): Promise<Came> {
  const said = (await device.identify?.(context)) ?? { ok: false as const, problem: { code: 'no-identity', message: 'It does not say who it is.' } };
  return said.ok
    ? { seen: `${said.value.product}, revision ${said.value.firmware}, serial ${said.value.serial}` }
    : failed(said.problem, 'The adapter was reached, and nobody at the end of the route.');
}

async function connectionStage({ target }: ControllerTest, context: CallContext): Promise<Came> {
  const fault = await target.open(context);
  if (fault) return failed(fault.problem, 'The processor answers, and takes no connection.');
  const { size, refused } = target.way;
  if (size > 0) return { seen: `messages of ${size} bytes are granted` };
  if (!refused) return { seen: 'messages travel without a connection, as set' };
  return {
    state: 'noted',
    seen: 'messages travel without a connection',
    meaning: `${statusInWords(refused).message} Smaller messages without one work as well, with more of them.`,
  };
}

/** One page of its list: enough to know that it is a controller with named tags. */
async function tagsStage({ target }: ControllerTest, context: CallContext): Promise<Came> {
  const asked = await target.ask(SERVICE.instanceAttributeList, symbolsRequest(null, 0), context);
  if (!asked.ok) return failed(asked.fault.problem, 'The controller does not answer for its tags.');
  if (asked.reply.general !== 0 && asked.reply.general !== 6)
    return {
      state: 'noted',
      seen: refusal(asked.reply).problem.message,
      meaning: 'It lists no tags; those whose names are known may be read all the same.',
    };
  return { seen: 'it lists its tags' };
}

async function readStage({ device, points }: ControllerTest, context: CallContext): Promise<Came> {
  const point = points[0];
  if (!point) return { state: 'skipped', seen: 'no tag yet' };
  const came: Arrival[] = [];
  await device.prepare([point]).read((_key, arrival) => void came.push(arrival), context);
  const arrival = came[0];
  if (!arrival) return { state: 'skipped', seen: 'nothing came' };
  if ('fault' in arrival) return failed(arrival.fault.problem, 'The controller answers, and this tag gives no value.');
  return { seen: `${point.canonical} is ${arrival.wire.kind === 'typed' ? String(arrival.wire.value) : ''}` };
}

function failed(problem: Problem, meaning: string): Came {
  return { state: 'failed', seen: problem.message, meaning, problem };
}
