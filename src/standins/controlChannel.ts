/**
 * The control channel of a stand-in: HTTP on loopback that tells values in engineering terms, straight from the
 * simulated process and not from the register memory, so that it can be a witness.
 *
 * GET /values            all values: { name: { value, unit, at } }
 * GET /values/<name>     one value
 * POST /orders           { "hold": true } stops the process, { "hold": false } lets it go on;
 *                        { "set": { name: value } } sets states of the process, as its own program would;
 *                        { "faults": { … } } makes its line behave badly from now on, {} well again (see faults.ts)
 */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { parseFaults, type Faults } from './faults.ts';

export interface Told {
  /** Numbers that a double cannot hold exactly are told as decimal text. */
  readonly value: number | boolean | string;
  readonly unit: string;
}

export interface ControlledProcess {
  readonly name: string;
  readonly values: () => Readonly<Record<string, Told>>;
  readonly hold: (held: boolean) => void;
  /** False when the process has no such state to set. */
  readonly set: (name: string, value: unknown) => boolean;
  readonly fail: (faults: Faults) => void;
}

export function serveControl(process: ControlledProcess): Server {
  return createServer((request, response) => {
    void handle(process, request, response);
  });
}

async function handle(process: ControlledProcess, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = decodeURIComponent(new URL(request.url ?? '/', 'http://stand-in').pathname);
  const values = process.values();
  const at = Date.now();
  if (request.method === 'GET' && path === '/') return send(response, 200, { standin: process.name, values: Object.keys(values).length });
  if (request.method === 'GET' && path === '/values')
    return send(response, 200, Object.fromEntries(Object.entries(values).map(([name, told]) => [name, { ...told, at }])));
  if (request.method === 'GET' && path.startsWith('/values/')) {
    const told = values[path.slice('/values/'.length)];
    return told ? send(response, 200, { ...told, at }) : send(response, 404, { message: 'The process has no such value.' });
  }
  if (request.method === 'POST' && path === '/orders') {
    const order = await readOrder(request);
    if (typeof order?.set === 'object' && order.set !== null) {
      const refused = Object.entries(order.set).filter(([name, value]) => !process.set(name, value));
      return refused.length === 0
        ? send(response, 200, { set: order.set })
        : send(response, 400, { message: `The process cannot set ${refused.map(([name]) => name).join(', ')}.` });
    }
    if (order?.faults !== undefined) {
      const faults = parseFaults(order.faults);
      if (!faults) return send(response, 400, { message: 'These are no faults that a stand-in knows.' });
      process.fail(faults);
      return send(response, 200, { faults });
    }
    if (typeof order?.hold !== 'boolean') return send(response, 400, { message: 'Send {"hold": true} or {"hold": false}.' });
    process.hold(order.hold);
    return send(response, 200, { hold: order.hold });
  }
  send(response, 404, { message: 'Ask for /values, /values/<name> or POST to /orders.' });
}

async function readOrder(request: IncomingMessage): Promise<{ hold?: unknown; set?: unknown; faults?: unknown } | null> {
  let text = '';
  for await (const chunk of request) {
    text += String(chunk);
    if (text.length > 10_000) return null;
  }
  try {
    const parsed: unknown = JSON.parse(text);
    return typeof parsed === 'object' ? parsed : null;
  } catch {
    return null;
  }
}

function send(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json', connection: 'close' });
  response.end(JSON.stringify(body));
}
