/** Bytes over TCP, and datagrams over UDP. */
import { createSocket } from 'node:dgram';
import { connect } from 'node:net';
import { networkInterfaces } from 'node:os';
import type { OpenPipe } from './connection.ts';
import { describeSocketError } from '../socketErrors.ts';

export interface Host {
  readonly host: string;
  readonly port: number;
  /** Name of the adapter of this machine to use, empty for the one the system chooses. */
  readonly adapter: string;
}

/** Some hundred replies: more come in the next read. */
const READ_BYTES = 32_768;

export function tcpPipe({ host, port, adapter }: Host): OpenPipe {
  return ({ opened, data, lost }) => {
    const from = adapterAddress(adapter, host);
    // One buffer for all reads, each copied out of it: a tenth faster than a stream that makes one each time.
    const onread = {
      buffer: Buffer.alloc(READ_BYTES),
      callback: (count: number): boolean => {
        const own = Buffer.allocUnsafe(count);
        onread.buffer.copy(own, 0, 0, count);
        data(own);
        return true;
      },
    };
    const socket = connect({ host, port, noDelay: true, onread, ...(from === null ? {} : { localAddress: from }) });
    socket.on('connect', opened);
    socket.on('error', (error: NodeJS.ErrnoException) => lost(describeSocketError(error, host, port)));
    socket.on('close', () =>
      lost({
        code: 'closed-by-peer',
        message: `${host}:${port} closed the connection.`,
        remedy: 'Many devices allow only one connection: check who else holds it.',
      }),
    );
    return { write: (bytes) => socket.write(bytes), close: () => socket.destroy() };
  };
}

/** Each write leaves as one datagram, each datagram comes as one chunk. */
export function udpPipe({ host, port, adapter }: Host): OpenPipe {
  return ({ opened, data, lost }) => {
    const from = adapterAddress(adapter, host);
    const socket = createSocket(host.includes(':') ? 'udp6' : 'udp4');
    let isClosed = false;
    socket.on('connect', opened);
    socket.on('message', data);
    socket.on('error', (error: NodeJS.ErrnoException) => lost(describeSocketError(error, host, port)));
    const connectTo = (): void => void (isClosed || socket.connect(port, host));
    if (from === null) connectTo();
    else socket.bind({ address: from }, connectTo);
    return {
      write: (bytes) => socket.send(bytes),
      close: () => {
        if (isClosed) return;
        isClosed = true;
        socket.close();
      },
    };
  };
}

/** The address of an adapter that fits the family of the host; an adapter that is gone gives an address that cannot be used. */
function adapterAddress(adapter: string, host: string): string | null {
  if (adapter === '') return null;
  const family = host.includes(':') ? 'IPv6' : 'IPv4';
  return networkInterfaces()[adapter]?.find((a) => a.family === family)?.address ?? '0.0.0.1';
}
