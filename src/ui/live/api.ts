/** Requests to the server; every answer is a value or a problem, never an exception. */
import { fail, ok, type Result } from '@/core/result.ts';

interface ProblemDocument {
  readonly title?: string;
  readonly code?: string;
  readonly detail?: string;
  readonly place?: string;
  readonly instead?: readonly string[];
}

export function call<T>(method: 'GET' | 'POST', path: string, body?: unknown, signal?: AbortSignal): Promise<Result<T>> {
  const sent = body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) };
  return send<T>(path, { method, ...sent }, signal);
}

/** For an array whose items come on lines of their own, each when it is known. */
export async function callLines<T>(
  method: 'GET' | 'POST',
  path: string,
  take: (item: T) => void,
  signal: AbortSignal,
  body?: unknown,
): Promise<Result<null>> {
  try {
    const sent = body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) };
    const response = await fetch(`/api/v1${path}`, { method, signal, ...sent });
    if (!response.ok || !response.body) return await problemOf(response);
    let text = '';
    const utf8 = response.body.pipeThrough(new TextDecoderStream()).getReader();
    for (let chunk = await utf8.read(); !chunk.done; chunk = await utf8.read()) {
      const lines = (text + chunk.value).split('\n');
      text = lines.pop() ?? '';
      for (const line of lines) takeLine(line);
    }
    takeLine(text);
    return ok(null);
  } catch (error) {
    return silence(error, signal);
  }
  function takeLine(line: string): void {
    const item = line.replace(/,$/, '');
    if (item !== '' && item !== '[' && item !== ']' && item !== '[]') take(JSON.parse(item) as T);
  }
}

/** Sends a zip as it is. */
export function sendFile<T>(path: string, file: Blob, signal?: AbortSignal): Promise<Result<T>> {
  return send<T>(path, { method: 'POST', headers: { 'content-type': 'application/zip' }, body: file }, signal);
}

async function send<T>(path: string, request: RequestInit, signal?: AbortSignal): Promise<Result<T>> {
  try {
    const response = await fetch(`/api/v1${path}`, { ...request, ...(signal ? { signal } : {}) });
    if (response.ok) return ok((await response.json()) as T);
    return await problemOf(response);
  } catch (error) {
    return silence(error, signal);
  }
}

async function problemOf(response: Response): Promise<Result<never>> {
  const told = (await response.json().catch(() => ({}))) as ProblemDocument;
  const failed = fail(told.code ?? 'server', told.title ?? `The server answered with status ${response.status}.`, told.detail, told.place);
  return told.instead ? { ok: false, problem: { ...failed.problem, instead: told.instead } } : failed;
}

function silence(error: unknown, signal: AbortSignal | undefined): Result<never> {
  if (signal?.aborted) return fail('cancelled', 'Cancelled.');
  return fail(
    'server-silent',
    'The Mill Latch server does not answer.',
    `Check that it still runs${error instanceof TypeError ? '' : ` (${String(error)})`}.`,
  );
}
