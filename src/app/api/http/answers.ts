/** Requests parsed and answered the same way everywhere; errors are problem documents (RFC 9457). */
import { ValidationError, type AnyObjectSchema, type InferType } from 'yup';
import { inSlices, nextTurn } from '@/core/inSlices.ts';
import { isLarge, jsonPortions } from '@/core/jsonPortions.ts';
import { UUID } from '@/core/patterns.ts';
import { checkingJsonText } from '@/core/jsonText.ts';
import { shortened, type Applied } from '@/core/project/snapshot.ts';
import { PEER_RIGHTS } from '@/core/live/network.ts';
import { plainPath, remoteVerdict } from '@/core/live/remoteAccess.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { validateInSlices } from './validateInSlices.ts';

/** Of a body that says a few things. */
const SMALL_BODY_BYTES = 100_000;
/** Of one that may hold thousands of changes, or a whole list. */
export const LARGE_BODY_BYTES = 10_000_000;

const STATUS: Readonly<Record<string, number>> = {
  gone: 404,
  'not-found': 404,
  locked: 423,
  'too-many': 429,
  'wrong-code': 403,
  'no-code': 403,
  'not-here': 403,
  'too-large': 413,
  'changed-elsewhere': 409,
  'id-used': 409,
  'nothing-new': 409,
  'nothing-to-undo': 409,
  'nothing-to-redo': 409,
  'not-logged': 507,
  'disk-full': 507,
  'store-stuck': 503,
  'too-slow': 408,
  internal: 500,
};

/** The value as JSON, or the problem. What is large is written a portion at a time, so that reading goes on meanwhile. */
export function answer<T>(result: Result<T>): Response {
  if (!result.ok) return problem(result.problem);
  if (!isLarge(result.value)) return Response.json(result.value, { headers: { 'cache-control': 'no-store' } });
  const portions = jsonPortions(result.value);
  const utf8 = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = portions.next();
      if (next.done) controller.close();
      else controller.enqueue(utf8.encode(next.value));
      await nextTurn();
    },
  });
  return new Response(body, { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });
}

/** JSON that is written already, in one piece: in portions it would be compressed half as well. */
export function answerJson(result: Result<string>): Response {
  if (!result.ok) return problem(result.problem);
  return new Response(result.value, { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });
}

/** A file that the browser saves under its name. */
export function answerFile({ name, type, bytes }: { readonly name: string; readonly type: string; readonly bytes: BodyInit }): Response {
  const plain = name.replace(/[^A-Za-z0-9 ,._-]/g, '-');
  return new Response(bytes, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'no-store',
    },
  });
}

/** What was applied; thousands of changes are not repeated. */
export function answerApplied(result: Result<Applied>): Response {
  return answer(result.ok ? ok(shortened(result.value)) : result);
}

export function problem(p: Problem, status = STATUS[p.code] ?? 422): Response {
  const body = {
    type: 'about:blank',
    title: p.message,
    status,
    code: p.code,
    ...(p.remedy ? { detail: p.remedy } : {}),
    ...(p.place ? { place: p.place } : {}),
    ...(p.instead ? { instead: p.instead } : {}),
  };
  return Response.json(body, { status, headers: { 'content-type': 'application/problem+json', 'cache-control': 'no-store' } });
}

/** Reads a JSON body that obeys the schema; nothing is coerced, and unknown fields are refused. */
export async function readBody<S extends AnyObjectSchema>(request: Request, schema: S, maxBytes = SMALL_BODY_BYTES): Promise<Result<InferType<S>>> {
  if (!/^application\/json\b/i.test(request.headers.get('content-type') ?? ''))
    return fail('content-type', 'The body must be JSON.', 'Send content-type: application/json.');
  const bytes = await readUpTo(request, maxBytes);
  if (!bytes) return fail('too-large', `The body is larger than ${maxBytes / 1000} kB.`);
  let body: unknown;
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    const checked = await inSlices(checkingJsonText(text));
    if (!checked.ok) return checked;
    body = JSON.parse(text);
  } catch {
    return fail('json', 'The body is not valid JSON.');
  }
  if (typeof body !== 'object' || body === null || Array.isArray(body)) return fail('json', 'The body must be a JSON object.');
  try {
    return ok((await validateInSlices(schema, body as Record<string, unknown>)) as InferType<S>);
  } catch (error) {
    if (error instanceof ValidationError) return fail('invalid', error.message, undefined, error.path);
    throw error;
  }
}

/** A file as the body, up to a limit. */
export async function readFile(request: Request, maxBytes: number): Promise<Result<Uint8Array>> {
  if (!/^application\/(zip|octet-stream)\b/i.test(request.headers.get('content-type') ?? ''))
    return fail('content-type', 'The body must be a file.', 'Send content-type: application/octet-stream.');
  const bytes = await readUpTo(request, maxBytes);
  return bytes ? ok(bytes) : fail('too-large', `The file is larger than ${maxBytes / 1_000_000} MB.`);
}

/** The body, or null as soon as it is seen to be larger; no more of it is read then. */
async function readUpTo(request: Request, maxBytes: number): Promise<Uint8Array | null> {
  const chunks: Uint8Array[] = [];
  let length = 0;
  const isTooLarge = Number(request.headers.get('content-length') ?? 0) > maxBytes;
  const body = request.body as unknown as AsyncIterable<Uint8Array> | null;
  if (isTooLarge) await request.body?.cancel();
  else if (body)
    for await (const chunk of body) {
      length += chunk.length;
      if (length > maxBytes) return null;
      chunks.push(chunk);
    }
  return isTooLarge ? null : inSlices(joining(chunks, length));
}

/** A file of 200 MB put together at once would hold everything else up. */
function* joining(chunks: readonly Uint8Array[], length: number): Generator<void, Uint8Array> {
  const all = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
    yield;
  }
  return all;
}

/** Checks the texts of the query that the schema knows; others are left alone. */
export function readQuery<S extends AnyObjectSchema>(request: Request, schema: S): Result<InferType<S>> {
  const given = new URL(request.url).searchParams;
  const texts = Object.fromEntries(Object.keys(schema.fields).flatMap((name) => (given.get(name) ? [[name, given.get(name)]] : [])));
  // No text of ours holds one, and no database takes it.
  const broken = Object.entries(texts).find(([, text]) => text?.includes('\0'));
  if (broken) return fail('invalid', 'A text holds NUL.', 'Leave it away.', broken[0]);
  try {
    return ok(schema.validateSync(texts, { strict: true }) as InferType<S>);
  } catch (error) {
    if (error instanceof ValidationError) return fail('invalid', error.message, undefined, error.path);
    throw error;
  }
}

/** A handler whose bugs are logged here and told without their insides. */
export function guarded<A extends unknown[]>(
  handler: (request: Request, ...rest: A) => Promise<Response>,
): (request: Request, ...rest: A) => Promise<Response> {
  return async (request, ...rest) => {
    try {
      const refused = refusedFromAfar(request) ?? (await unknownPlace(rest[0]));
      return refused ?? (await handler(request, ...rest));
    } catch (error) {
      const trouble = storeTrouble(error);
      if (trouble) return problem(trouble);
      console.error(error);
      return problem({
        code: 'internal',
        message: 'Something went wrong inside Mill Latch.',
        remedy: 'Look at the log of the server, and try again.',
      });
    }
  };
}

/** What keeps the database from storing is told as what it is. Route handlers have a class of their own for it: its code counts. */
function storeTrouble(error: unknown): Problem | null {
  const code = error instanceof Error && 'code' in error ? error.code : null;
  return code === 'disk-full' || code === 'store-stuck' ? { code, message: (error as Error).message } : null;
}

/** SHA-256, hexadecimal. */
const DIGEST = /^[0-9a-f]{64}$/;

/** What the path names has a UUID, whatever it is, but for what is named by its digest. */
async function unknownPlace(context: unknown): Promise<Response | null> {
  const { params } = (context ?? {}) as { readonly params?: Promise<Readonly<Record<string, string>>> };
  const isKnown = Object.entries((await params) ?? {}).every(([name, id]) => (name === 'digest' ? DIGEST : UUID).test(id));
  return isKnown ? null : problem({ code: 'not-found', message: 'The path names nothing that is here.' });
}

/** Whether another machine asks: it gets panels and what they show. */
export function isFromAfar(request: Request): boolean {
  return request.headers.has(REMOTE);
}

/** Set by the server alone: what the other machine may do. */
const REMOTE = 'x-mill-latch-remote';

/** The server has judged the request already; here the path counts that the router made of it. */
function refusedFromAfar(request: Request): Response | null {
  const rights = request.headers.get(REMOTE);
  if (rights === null) return null;
  const path = plainPath(new URL(request.url).pathname);
  const peer = rights === 'none' ? null : { rights: PEER_RIGHTS.find((known) => known === rights) ?? 'read' };
  const verdict = path === null ? null : remoteVerdict(request.method, path, peer);
  return verdict?.kind === 'pass' ? null : problem({ code: 'not-here', message: 'This is done at the machine that Mill Latch runs on.' });
}

/** A whole number from the query, within bounds. */
export function limitOf(request: Request, standard: number, most: number): number {
  const asked = Number(new URL(request.url).searchParams.get('limit') ?? standard);
  return Number.isInteger(asked) && asked > 0 ? Math.min(asked, most) : standard;
}
