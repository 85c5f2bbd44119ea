/** Who may reach the server from other machines. */
export const PEER_RIGHTS = ['read', 'check', 'write'] as const;
export type PeerRights = (typeof PEER_RIGHTS)[number];

export interface Peer {
  readonly id: string;
  readonly name: string;
  /** `check` may also say in runs of checks what a panel shows. `write` may also press buttons and enter values on panels, while the device is open for panels. */
  readonly rights: PeerRights;
  readonly joinedAt: string;
  readonly seenAt: string;
}

export interface NetworkSettings {
  readonly open: boolean;
  /** Address of this machine to listen on. */
  readonly address: string;
  /** Further names under which this machine is reached. */
  readonly names: readonly string[];
}

export interface NetworkState extends NetworkSettings {
  /** Where others reach the server, while it is open. */
  readonly url: string | null;
  readonly adapters: readonly { readonly name: string; readonly address: string }[];
  readonly peers: readonly Peer[];
}

export interface PairingCode {
  readonly code: string;
  readonly validUntil: string;
}
