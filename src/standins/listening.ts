/** What every stand-in does as a process: listens on loopback, and ends when it is told or left alone. */
import type { AddressInfo, Server } from 'node:net';

/** @param port 0 for any free one; @returns the port that was taken */
export function listen(what: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    what.once('error', reject);
    what.listen(port, '127.0.0.1', () => resolve((what.address() as AddressInfo).port));
  });
}

/** @param isBound whether it ends when its standard input does, which is when its parent has ended */
export function endWithParent(isBound: boolean): void {
  if (isBound) {
    process.stdin.on('end', () => process.exit(0));
    process.stdin.resume();
  }
  process.on('SIGTERM', () => process.exit(0));
  process.on('SIGINT', () => process.exit(0));
}
