/** Calls of a bench to one panel host: greeted for a number, then sealed, each answered in bounded time. */
import { HOST_PORT, HOSTING_VERSION, type Answers, type CallName, type CallOf, type HostGreeting } from '@/core/hosting/messages.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { agree, newPairKeys, sameProof, seal, unseal } from './sealing.ts';

const ANSWER_MS = 8_000;
/** Taking over waits for what is held to be let go. */
const TAKE_MS = 60_000;
/** An answer with a part of a project in it. */
const MOST_ANSWER_BYTES = 4_000_000;

/** Where it is reached, and the key of the pairing. */
export interface HostAccess {
  readonly address: string;
  readonly benchId: string;
  readonly key: Buffer;
}

/** `host`, `host:port`; without a port the usual one. @returns null for what is no address */
export function hostAddress(text: string): string | null {
  const match = /^([A-Za-z0-9](?:[A-Za-z0-9.-]{0,252}[A-Za-z0-9])?)(?::(\d{1,5}))?$/.exec(text.trim());
  const port = Number(match?.[2] ?? HOST_PORT);
  return match && port >= 1 && port <= 65_535 ? `${(match[1] ?? '').toLowerCase()}:${port}` : null;
}

export async function callHost<C extends CallName>({ address, benchId, key }: HostAccess, call: C, told: CallOf<C>): Promise<Result<Answers[C]>> {
  const greeted = await greet(address);
  if (!greeted.ok) return greeted;
  const { nonce } = greeted.value;
  const patience = call === 'take' || call === 'back' ? TAKE_MS : ANSWER_MS;
  const answered = await post<{ box?: unknown }>(
    address,
    'call',
    { bench: benchId, nonce, box: seal(key, 'host', nonce, { ...told, call }) },
    patience,
  );
  if (!answered.ok) return answered;
  const answer = unseal(key, 'bench', nonce, String(answered.value.box)) as Result<Answers[C]> | undefined;
  return answer ?? fail('not-paired', 'What answers there is not the panel host that was paired.', 'Pair it again.');
}

export async function greet(address: string): Promise<Result<HostGreeting>> {
  const greeted = await post<HostGreeting>(address, 'hello', {}, ANSWER_MS);
  if (!greeted.ok) return greeted;
  if (typeof greeted.value.nonce !== 'string' || typeof greeted.value.id !== 'string')
    return fail('no-host', `What answers at ${address} is no panel host.`, 'Check its address and port.', 'address');
  if (greeted.value.version !== HOSTING_VERSION)
    return fail(
      'version',
      `The panel host speaks version ${greeted.value.version}, this bench ${HOSTING_VERSION}.`,
      'Bring both to the same version of the program.',
    );
  return greeted;
}

export interface PairedNow {
  readonly id: string;
  readonly name: string;
  readonly benchId: string;
  readonly key: Buffer;
}

/** @param code that the host shows @param bench what the host will call this bench */
export async function pairWith(address: string, code: string, bench: string): Promise<Result<PairedNow>> {
  const greeted = await greet(address);
  if (!greeted.ok) return greeted;
  const own = newPairKeys();
  const begun = await post<{ pairing?: unknown; key?: unknown }>(address, 'pair', { bench, key: own.publicKey }, ANSWER_MS);
  if (!begun.ok) return begun;
  const agreed = await agree(own, String(begun.value.key), code, 'bench');
  if (!agreed) return NO_KEY;
  const proven = await post<{ bench?: unknown; proof?: unknown }>(
    address,
    'prove',
    { pairing: begun.value.pairing, proof: agreed.benchProof },
    ANSWER_MS,
  );
  if (!proven.ok) return proven;
  if (typeof proven.value.bench !== 'string' || !sameProof(String(proven.value.proof), agreed.hostProof)) return NO_KEY;
  const { id, name } = greeted.value;
  return ok({ id, name, benchId: proven.value.bench, key: agreed.key });
}

const NO_KEY = fail(
  'no-host',
  'What answers there does not know the code itself.',
  'Is it the panel host that shows the code? Check its address.',
  'address',
);

async function post<T>(address: string, what: string, body: object, patienceMs: number): Promise<Result<T>> {
  try {
    const response = await fetch(`http://${address}/api/v1/host/${what}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
      redirect: 'error',
      signal: AbortSignal.timeout(patienceMs),
    });
    const text = await textOf(response);
    if (text === null) return fail('no-host', `What answers at ${address} is no panel host.`, 'Check its address and port.', 'address');
    const said = JSON.parse(text) as Record<string, unknown>;
    if (response.ok) return ok(said as T);
    const { title, code, detail, place } = said;
    if (typeof title !== 'string' || typeof code !== 'string')
      return fail('no-host', `What answers at ${address} is no panel host.`, 'Check its address and port.', 'address');
    return fail(code, title, typeof detail === 'string' ? detail : undefined, typeof place === 'string' ? place : undefined);
  } catch (error) {
    return silent(address, error, patienceMs);
  }
}

/** @returns null for more than any host says */
async function textOf(response: Response): Promise<string | null> {
  const chunks: Uint8Array[] = [];
  let length = 0;
  const body = response.body as unknown as AsyncIterable<Uint8Array> | null;
  if (!body) return '';
  for await (const chunk of body) {
    length += chunk.length;
    if (length > MOST_ANSWER_BYTES) return null;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

/** An error is told by its names: not all of them are of one family. */
function silent(address: string, error: unknown, patienceMs: number): Result<never> {
  const { name, cause, message } = (typeof error === 'object' && error !== null ? error : {}) as Partial<
    Record<'name' | 'cause' | 'message', unknown>
  >;
  if (name === 'SyntaxError') return fail('no-host', `What answers at ${address} is no panel host.`, 'Check its address and port.', 'address');
  if (name === 'TimeoutError')
    return fail(
      'silent',
      `${address} did not answer within ${patienceMs / 1000} s.`,
      'Look whether the panel host still runs; what runs on it is as it was, or new, never between.',
      'address',
    );
  const told = (cause as { readonly code?: unknown } | undefined)?.code;
  const code = typeof told === 'string' ? told : '';
  const why =
    code === 'ECONNREFUSED'
      ? 'nothing listens there'
      : code === 'ENOTFOUND' || code === 'EAI_AGAIN'
        ? 'there is no machine of that name'
        : code === 'ECONNRESET' || code === 'UND_ERR_SOCKET'
          ? 'it hung up'
          : code || String(message);
  return fail(
    'silent',
    `The panel host at ${address} is not reached: ${why}.`,
    'Is it on, and open to the network? Its page /host says at which address.',
    'address',
  );
}
