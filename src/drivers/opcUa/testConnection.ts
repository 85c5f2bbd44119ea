/** Tests a link and a node of it stage by stage; each failure with what it means. */
import { nodeIdIn, parseMember, parseNodeAddress } from '@/core/opcua/nodeId.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock, FrameEvent, Observer, PointSpec, TestStage } from '../contract.ts';
import { certificateInWords, fingerprintOf, judgeCertificate, spacedFingerprint } from './certificates.ts';
import { chooseEndpoint, connectTo, endpointInWords, endpointsOf, type Connecting, type Connection, type Endpoint } from './connection.ts';
import { statusInWords } from '@/core/opcua/statusCode.ts';
import { hostOf, portOf, type Dialect } from './describe.ts';
import { reach, type Reached } from './reaching.ts';
import { observeNodes } from './subscription.ts';
import { arrivalOf, faultOf } from './values.ts';

/** Clocks that differ by more are worth a word: certificates and tokens depend on them. */
const CLOCKS_DIFFER_MS = 5000;
const FIRST_VALUE_MS = 5000;

const TITLES: Readonly<Record<string, string>> = {
  host: 'Host',
  hello: 'Hello',
  endpoints: 'Endpoints',
  security: 'Security',
  session: 'Session',
  namespaces: 'Namespaces and clock',
  read: 'One value read',
  subscription: 'One value observed',
};

const CERTIFICATE_MEANING = 'Whoever answers there may be the server, or somebody in between: its certificate tells which.';
/** Short, since the certificate itself stands above. */
const CERTIFICATE_CAUSES: Readonly<Record<string, string>> = {
  'certificate-unknown': 'Nobody has accepted this certificate yet',
  'certificate-changed': 'It is another certificate than the one that was accepted',
};

export interface UaTest extends Omit<Connecting, 'onFrame'> {
  readonly clock: Clock;
  readonly dialect: Dialect;
  readonly points: readonly PointSpec[];
}

interface Came {
  readonly state?: TestStage['state'];
  readonly seen: string;
  readonly meaning?: string;
  readonly problem?: Problem;
  readonly proposal?: TestStage['proposal'];
}

export async function* testServer(test: UaTest): AsyncGenerator<TestStage> {
  const { ua, clock, settings } = test;
  let frames: FrameEvent[] = [];
  const connecting: Connecting = { ...test, onFrame: (direction, bytes) => void frames.push({ at: clock.now(), direction, bytes }) };
  const ids = Object.keys(TITLES);
  let endpoints: readonly Endpoint[] = [];
  let endpoint: Endpoint | null = null;
  let reached: Reached | null = null;
  let connection: Connection | null = null;
  const point = test.points[0];

  const steps: Readonly<Record<string, () => Promise<Came>>> = {
    host: async () => {
      const found = await reach(settings.endpoint, test.timeoutMs);
      if (!found.ok) return failed(found.problem, 'The host was not reached: nothing is known of the server.');
      reached = found.value;
      return { seen: `${hostOf(settings.endpoint)}:${portOf(settings.endpoint)} takes the connection` };
    },
    hello: async () => {
      const told = await reached?.hello();
      if (!told?.ok)
        return told ? failed(told.problem, 'The host was reached, and no server of OPC UA answers there.') : { state: 'skipped', seen: '' };
      const { answer, bytes } = told.value;
      frames.push({ at: clock.now(), direction: 'received', bytes });
      if (answer.kind === 'acknowledge') return { seen: `buffers of ${answer.receiveBytes} and ${answer.sendBytes} bytes` };
      if (answer.kind === 'error') {
        const { name } = ua.getStatusCodeFromCode(answer.status);
        return failed({ code: name, ...statusInWords(name) }, 'A server of OPC UA answers, and refuses the address.', answer.reason || name);
      }
      return failed(
        { code: 'stranger', message: 'Another program answers there.', remedy: 'Check the port: a server of OPC UA often has 4840.' },
        'The host was reached, and what answers there is not OPC UA.',
        `it answered ${JSON.stringify(new TextDecoder('latin1').decode(bytes.subarray(0, 24)))}`,
      );
    },
    endpoints: async () => {
      const found = await endpointsOf(connecting);
      if (!found.ok) return failed(found.problem, 'The server says hello, and not how it can be connected to.');
      endpoints = found.value;
      return {
        seen: `${endpoints[0]?.server.applicationName.text ?? 'A server'} offers: ${[...new Set(endpoints.map((e) => endpointInWords(ua, e)))].join('; ')}`,
      };
    },
    security: async () => {
      const chosen = chooseEndpoint(ua, settings, endpoints);
      if (!chosen.ok) return failed(chosen.problem, 'The link is set to a security that the server does not have.');
      endpoint = chosen.value;
      if (settings.policy === 'None')
        return { state: 'noted', seen: 'No security', meaning: 'Anybody on this network can read what passes, and change it.' };
      const certificate = endpoint.serverCertificate;
      const fingerprint = fingerprintOf(certificate);
      const seen = `${certificateInWords(certificate)}; fingerprint ${spacedFingerprint(fingerprint)}`;
      const judged = judgeCertificate(certificate, settings.trusted, clock.now());
      if (judged.ok) return { seen };
      const canAccept = judged.problem.code === 'certificate-unknown' || judged.problem.code === 'certificate-changed';
      return {
        ...failed({ ...judged.problem, message: CERTIFICATE_CAUSES[judged.problem.code] ?? judged.problem.message }, CERTIFICATE_MEANING, seen),
        ...(canAccept ? { proposal: { label: 'Accept this certificate', of: 'link', settings: { trusted: fingerprint } } } : {}),
      };
    },
    session: async () => {
      if (!endpoint) return { state: 'skipped', seen: '' };
      const made = await connectTo(connecting, endpoint);
      if (!made.ok) return failed(made.problem, 'The server was reached, and took no session.');
      connection = made.value;
      return { seen: signedIn(settings) };
    },
    namespaces: async () => {
      if (!connection) return { state: 'skipped', seen: '' };
      const now = await connection.session.read({ nodeId: 'i=2258', attributeId: ua.AttributeIds.Value });
      const theirs: unknown = now.value.value;
      const differs = theirs instanceof Date ? theirs.getTime() - clock.now() : 0;
      const seen = connection.namespaces.map((uri, i) => `${i} ${uri}`).join('; ');
      if (Math.abs(differs) < CLOCKS_DIFFER_MS) return { seen };
      return {
        state: 'noted',
        seen,
        meaning: `The clock of the server is ${Math.abs(differs / 1000).toFixed(0)} s ${differs > 0 ? 'ahead of' : 'behind'} ours: times at the source are by its clock, and certificates may seem not valid.`,
      };
    },
    read: async () => {
      if (!connection || !point) return { state: 'skipped', seen: 'no tag yet' };
      const address = parseNodeAddress(point.canonical);
      const nodeId = address.ok ? nodeIdIn(address.value, connection.namespaces) : null;
      if (!address.ok || nodeId === null)
        return failed(
          { code: 'namespace', message: `The server has no namespace of ${point.canonical} now.`, remedy: 'Browse it again.' },
          'The program of the server has other namespaces.',
        );
      const value = await connection.session.read({ nodeId, attributeId: ua.AttributeIds.Value });
      const arrival = arrivalOf(ua, value, point.type, parseMember(address.value.member), clock.now(), 0);
      if ('fault' in arrival) return failed(arrival.fault.problem, 'The session stands, and this node gives no value.');
      return { seen: `${point.canonical} is ${arrival.wire.kind === 'typed' ? String(arrival.wire.value) : ''}` };
    },
    subscription: async () => {
      const open = connection;
      if (!open || !point) return { state: 'skipped', seen: 'no tag yet' };
      const first = await new Promise<Came>((resolve) => {
        const late = clock.after(FIRST_VALUE_MS, () =>
          resolve(failed({ code: 'no-value', message: `No value came within ${FIRST_VALUE_MS / 1000} s.` }, 'Reading works, observing does not.')),
        );
        const observer: Observer = {
          sink: (_key, arrival) => {
            late();
            resolve(
              'fault' in arrival
                ? failed(arrival.fault.problem, 'The server does not observe this node.')
                : { seen: 'the first value came by itself' },
            );
          },
          alive: () => undefined,
          lost: (fault) => resolve(failed(fault.problem, 'The server makes no subscription.')),
        };
        const observation = observeNodes(open, test.dialect, clock, observer);
        observation.add([{ ...point, everyMs: 500 }]);
      });
      return first;
    },
  };

  let isOver = false;
  try {
    for (const id of ids) {
      const title = TITLES[id] ?? id;
      if (isOver) {
        yield { id, title, state: 'skipped', ms: 0, seen: '' };
        continue;
      }
      frames = [];
      const begun = clock.now();
      const came = await (steps[id]?.() ?? Promise.resolve<Came>({ seen: '' })).catch((error: unknown) =>
        failed(faultOf(error).problem, 'This stage came to no end.'),
      );
      const { problem, state = 'passed', ...told } = came;
      isOver = state === 'failed';
      const causes = problem
        ? { causes: [{ id: problem.code, cause: problem.message.replace(/\.$/, ''), remedy: problem.remedy ?? 'Look at the server.' }] }
        : {};
      yield { id, title, state, ms: clock.now() - begun, ...told, ...causes, frames };
    }
  } finally {
    (connection as Connection | null)?.close();
    (reached as Reached | null)?.close();
  }
}

function failed(problem: Problem, meaning: string, seen = problem.message): Came {
  return { state: 'failed', seen, meaning, problem };
}

function signedIn({ user, userName }: Connecting['settings']): string {
  return user === 'password' ? `signed in as ${userName}` : user === 'certificate' ? 'signed in with a certificate' : 'anonymous';
}
