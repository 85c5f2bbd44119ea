/** One connection to a server: endpoint chosen, certificate judged, secure channel, session, namespaces. */
import { join } from 'node:path';
import type { EndpointDescription, UserIdentityInfo } from 'node-opcua';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { FrameEvent } from '../contract.ts';
import { judgeCertificate, ownCertificates } from './certificates.ts';
import { describeSocketError } from '../socketErrors.ts';
import { hostOf, portOf, type LinkSettings } from './describe.ts';
import type { Library, UaSession } from './library.ts';
import { faultOf } from './values.ts';

type Client = InstanceType<Library['OPCUAClient']>;
export type Endpoint = EndpointDescription;

export interface Connection {
  readonly ua: Library;
  readonly session: UaSession;
  /** URIs of the server's namespaces, by index. */
  readonly namespaces: readonly string[];
  readonly limits: ServerLimits;
  /** Hears that it has broken by itself. */
  onBroken(listener: () => void): void;
  /** Ends it without asking anybody. */
  close(): void;
}

/** What the server takes at once (IEC 62541-5, 6.3.11: OperationLimits); unlimited where it names no limit. */
export interface ServerLimits {
  readonly read: number;
  readonly write: number;
  readonly browse: number;
  readonly monitor: number;
}

export interface Connecting {
  readonly ua: Library;
  readonly settings: LinkSettings;
  /** Where our certificate lies. */
  readonly folder: string;
  readonly timeoutMs: number;
  readonly now: () => number;
  readonly onFrame: (direction: FrameEvent['direction'], bytes: Uint8Array) => void;
}

const SESSION_MS = 60_000;
const APPLICATION = 'Mill Latch';
const APPLICATION_URI = 'urn:mill-latch:client';

/** What the server offers, asked without any security. */
export async function endpointsOf({ ua, settings, timeoutMs, onFrame }: Connecting): Promise<Result<readonly Endpoint[]>> {
  const client = ua.OPCUAClient.create({
    endpointMustExist: false,
    applicationName: APPLICATION,
    connectionStrategy: { maxRetry: 0 },
    transportTimeout: timeoutMs,
    defaultTransactionTimeout: timeoutMs,
  });
  watchFrames(client, onFrame);
  try {
    await client.connect(settings.endpoint);
    return ok(await client.getEndpoints());
  } catch (error) {
    return { ok: false, problem: connectProblem(error, settings.endpoint) };
  } finally {
    await client.disconnect().catch(() => undefined);
  }
}

/** The endpoint that has the policy and mode of the link. */
export function chooseEndpoint(ua: Library, { policy, mode }: LinkSettings, endpoints: readonly Endpoint[]): Result<Endpoint> {
  const wanted = policy === 'None' ? ua.MessageSecurityMode.None : ua.MessageSecurityMode[mode];
  const found = endpoints.find((e) => policyName(e) === policy && e.securityMode === wanted);
  if (found) return ok(found);
  const offered = [...new Set(endpoints.map((e) => endpointInWords(ua, e)))].join('; ');
  return fail(
    'no-endpoint',
    `The server offers no ${policy === 'None' ? 'connection without security' : `${policy}, ${mode === 'Sign' ? 'signed' : 'signed and encrypted'}`}.`,
    `It offers: ${offered || 'nothing'}. Choose one of these in the settings of the link.`,
  );
}

export function endpointInWords(ua: Library, endpoint: Endpoint): string {
  const mode =
    endpoint.securityMode === ua.MessageSecurityMode.None
      ? ''
      : endpoint.securityMode === ua.MessageSecurityMode.Sign
        ? ', signed'
        : ', signed and encrypted';
  return `${policyName(endpoint) === 'None' ? 'no security' : policyName(endpoint)}${mode}`;
}

function policyName({ securityPolicyUri }: Endpoint): string {
  return securityPolicyUri?.replace(/^.*#/, '') ?? '';
}

/** Opens the secure channel and a session on it. The certificate of the endpoint was judged before. */
export async function connectTo(connecting: Connecting, endpoint: Endpoint): Promise<Result<Connection>> {
  const { ua, settings, folder, timeoutMs, onFrame } = connecting;
  const isSecure = settings.policy !== 'None';
  if (isSecure) {
    const judged = judgeCertificate(endpoint.serverCertificate, settings.trusted, connecting.now());
    if (!judged.ok) return judged;
  }
  if (settings.user === 'password' && settings.password === '')
    return fail('no-password', 'The password of the link is not kept on this machine.', 'Enter it again in the settings of the link.');
  const identity = identityOf(ua, settings);
  if (!identity.ok) return identity;
  let client: Client | null = null;
  try {
    const manager = await ownCertificates(ua, folder);
    client = ua.OPCUAClient.create({
      endpointMustExist: false,
      applicationName: APPLICATION,
      applicationUri: APPLICATION_URI,
      clientCertificateManager: manager,
      certificateFile: join(folder, 'own-certificate.pem'),
      connectionStrategy: { maxRetry: 0 },
      keepSessionAlive: true,
      securityMode: isSecure ? ua.MessageSecurityMode[settings.mode] : ua.MessageSecurityMode.None,
      securityPolicy: ua.SecurityPolicy[settings.policy],
      ...(isSecure ? { serverCertificate: endpoint.serverCertificate } : {}),
      requestedSessionTimeout: SESSION_MS,
      transportTimeout: timeoutMs,
      defaultTransactionTimeout: timeoutMs,
    });
    watchFrames(client, onFrame, settings.password);
    await client.connect(settings.endpoint);
    const session = await client.createSession(identity.value);
    const namespaces = await session.readNamespaceArray();
    const limits = await limitsOf(ua, session);
    const own = client;
    return ok({
      ua,
      session,
      namespaces,
      limits,
      onBroken: (listener) => {
        own.on('connection_lost', listener);
        own.on('close', listener);
      },
      close: () => void own.disconnect().catch(() => undefined),
    });
  } catch (error) {
    await client?.disconnect().catch(() => undefined);
    return { ok: false, problem: connectProblem(error, settings.endpoint) };
  }
}

/** Who signs in. */
function identityOf(ua: Library, { user, userName, password, userCertificate, userKey }: LinkSettings): Result<UserIdentityInfo> {
  switch (user) {
    case 'anonymous':
      return ok({ type: ua.UserTokenType.Anonymous });
    case 'password':
      return ok({ type: ua.UserTokenType.UserName, userName, password });
    case 'certificate': {
      if (userKey === '')
        return fail('no-key', 'The private key of the user is not kept on this machine.', 'Choose its file in the settings of the link.');
      const body = /-----BEGIN CERTIFICATE-----([\s\S]+?)-----END CERTIFICATE-----/.exec(userCertificate)?.[1];
      if (body === undefined)
        return fail('no-certificate', 'The certificate of the user is none in PEM form.', 'Paste its text, with the lines BEGIN and END.');
      if (!userKey.includes('PRIVATE KEY-----'))
        return fail('no-key', 'The private key of the user is none in PEM form.', 'Choose the file of the key.');
      return ok({ type: ua.UserTokenType.Certificate, certificateData: Buffer.from(body, 'base64'), privateKey: userKey });
    }
  }
}

async function limitsOf(ua: Library, session: UaSession): Promise<ServerLimits> {
  const ids = ['MaxNodesPerRead', 'MaxNodesPerWrite', 'MaxNodesPerBrowse', 'MaxMonitoredItemsPerCall'] as const;
  const found = await Promise.all(
    ids.map((id) =>
      session.read({ nodeId: `i=${ua.VariableIds[`Server_ServerCapabilities_OperationLimits_${id}`]}`, attributeId: ua.AttributeIds.Value }),
    ),
  );
  const [read = Infinity, write = Infinity, browse = Infinity, monitor = Infinity] = found.map(({ value }) => {
    const limit = Number(value.value);
    return Number.isInteger(limit) && limit > 0 ? limit : Infinity;
  });
  return { read, write, browse, monitor };
}

/** @param password left out of what is told: without security it would pass in clear */
function watchFrames(client: Client, onFrame: Connecting['onFrame'], password = ''): void {
  const secret = new TextEncoder().encode(password);
  client.on('send_chunk', (chunk: Uint8Array) => {
    const told = Buffer.from(chunk);
    for (let at = secret.length > 0 ? told.indexOf(secret) : -1; at >= 0; at = told.indexOf(secret, at)) told.fill(0x2a, at, at + secret.length);
    onFrame('sent', told);
  });
  client.on('receive_chunk', (chunk: Uint8Array) => onFrame('received', new Uint8Array(chunk)));
}

function connectProblem(error: unknown, endpoint: string): Problem {
  const text = error instanceof Error ? error.message : String(error);
  const told = (error as NodeJS.ErrnoException | null)?.code ?? '';
  const code = /\b(ECONNREFUSED|EHOSTUNREACH|ENETUNREACH|EHOSTDOWN|ENOTFOUND|EAI_AGAIN|ETIMEDOUT|ECONNRESET|EPIPE)\b/.exec(`${text} ${told}`)?.[1];
  if (code === undefined) return faultOf(error).problem;
  return describeSocketError(Object.assign(new Error(text), { code }), hostOf(endpoint), portOf(endpoint));
}
