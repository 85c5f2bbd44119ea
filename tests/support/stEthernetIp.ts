/** Another library's client of named tags, as a peer: it takes no port, so that it is given one behind its back. */
import { createRequire } from 'node:module';

export interface PeerTag {
  readonly value: unknown;
}
export interface PeerController {
  connect(host: string, slot: number, setUp: boolean): Promise<void>;
  readTag(tag: PeerTag): Promise<void>;
  readTagGroup(group: object): Promise<void>;
  writeTag(tag: PeerTag, value: unknown): Promise<void>;
  disconnect(): Promise<unknown>;
}
interface Peer {
  readonly Controller: new (connected?: boolean) => PeerController;
  readonly Tag: new (name: string, program?: string | null, type?: number, keepAlive?: number, dimensions?: number, size?: number) => PeerTag;
  readonly TagGroup: new () => { add(tag: PeerTag): void };
}

export function peerFor(port: number): Peer {
  const require = createRequire(import.meta.url);
  (require('st-ethernet-ip/dist/config') as { EIP_PORT: number }).EIP_PORT = port;
  return require('st-ethernet-ip') as Peer;
}
