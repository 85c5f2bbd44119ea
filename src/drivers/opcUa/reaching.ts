/** Reaches a server's host and says hello, before any security: whether it is there, and whether it speaks OPC UA at all. */
import { connect, type Socket } from 'node:net';
import { buildHello, readHelloAnswer, type HelloAnswer } from '@/core/opcua/hello.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { describeSocketError } from '../socketErrors.ts';
import { hostOf, portOf } from './describe.ts';

export interface Reached {
  /** Sends a hello, once; what came in answer, with the first bytes of it. */
  hello(): Promise<Result<{ readonly answer: HelloAnswer; readonly bytes: Uint8Array }>>;
  close(): void;
}

export function reach(endpoint: string, timeoutMs: number): Promise<Result<Reached>> {
  const [host, port] = [hostOf(endpoint), portOf(endpoint)];
  return new Promise((resolve) => {
    const socket = connect({ host, port });
    const late = setTimeout(() => {
      socket.destroy();
      resolve({ ok: false, problem: describeSocketError(Object.assign(new Error('timed out'), { code: 'ETIMEDOUT' }), host, port) });
    }, timeoutMs);
    socket.on('error', (error) => {
      clearTimeout(late);
      resolve({ ok: false, problem: describeSocketError(error, host, port) });
    });
    socket.once('connect', () => {
      clearTimeout(late);
      resolve(ok({ hello: () => greet(socket, endpoint, timeoutMs), close: () => socket.destroy() }));
    });
  });
}

function greet(socket: Socket, endpoint: string, timeoutMs: number): ReturnType<Reached['hello']> {
  return new Promise((resolve) => {
    let bytes = new Uint8Array(0);
    const end = (done: Awaited<ReturnType<Reached['hello']>>): void => {
      clearTimeout(late);
      socket.destroy();
      resolve(done);
    };
    const late = setTimeout(
      () =>
        end(
          fail(
            'no-answer',
            `The host took the connection, and has not answered a hello within ${timeoutMs / 1000} s.`,
            'It may be another program that listens there, or a server that hangs: check the port.',
          ),
        ),
      timeoutMs,
    );
    socket.on('close', () =>
      end(
        fail(
          'closed',
          'The host took the connection and closed it again.',
          'Another program may listen there, or a firewall stands between: check the port.',
        ),
      ),
    );
    socket.on('data', (chunk: Buffer) => {
      bytes = new Uint8Array([...bytes, ...chunk]);
      const answer = readHelloAnswer(bytes);
      if (answer.kind !== 'cut') end(ok({ answer, bytes }));
    });
    socket.write(buildHello(endpoint));
  });
}
