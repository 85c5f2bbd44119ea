/** A request of Node's server, answered by handlers that take one as browsers know them. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { Readable } from 'node:stream';
import type { ReadableStream as NodeReadableStream } from 'node:stream/web';

export async function answerWith(request: IncomingMessage, response: ServerResponse, handle: (request: Request) => Promise<Response>): Promise<void> {
  const gone = new AbortController();
  response.on('close', () => gone.abort());
  try {
    const answer = await handle(requestOf(request));
    const headers = Object.fromEntries([...answer.headers].filter(([name]) => name !== 'set-cookie'));
    const cookies = answer.headers.getSetCookie();
    response.writeHead(answer.status, { ...headers, ...(cookies.length > 0 ? { 'set-cookie': cookies } : {}) });
    if (answer.body === null || request.method === 'HEAD') return void response.end();
    for await (const chunk of Readable.fromWeb(answer.body as NodeReadableStream<Uint8Array>, { signal: gone.signal })) response.write(chunk);
    response.end();
  } catch (error) {
    if (gone.signal.aborted) return;
    console.error(error);
    if (!response.headersSent) response.writeHead(500, { 'content-type': 'application/problem+json' });
    response.end(JSON.stringify({ type: 'about:blank', status: 500, title: 'Something went wrong inside the panel host.', code: 'internal' }));
  }
}

function requestOf(request: IncomingMessage): Request {
  const headers = new Headers();
  for (const [name, value] of Object.entries(request.headers))
    for (const one of Array.isArray(value) ? value : [value ?? '']) headers.append(name, one);
  const { method = 'GET', url = '/' } = request;
  const hasBody = method !== 'GET' && method !== 'HEAD';
  const body = hasBody ? (Readable.toWeb(request) as unknown as ReadableStream<Uint8Array>) : null;
  // What is read as it comes is half of a conversation (Fetch, `duplex`); types do not know it yet.
  const more = hasBody ? { duplex: 'half' } : {};
  return new Request(`http://${request.headers.host ?? 'localhost'}${url}`, { method, headers, body, ...more });
}
