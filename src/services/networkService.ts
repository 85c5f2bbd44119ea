/**
 * Opens the server to the local network, on purpose only, and lets phones and panels join with a code that is shown
 * on the engineer's screen. They read only unless given more, are listed, and can be removed.
 */
import { createHash, randomBytes, randomInt, timingSafeEqual } from 'node:crypto';
import { networkInterfaces } from 'node:os';
import { v7 as uuid } from 'uuid';
import type { NetworkSettings, NetworkState, PairingCode, Peer, PeerRights } from '@/core/live/network.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { NetworkStore, StoredPeer } from '@/store/networkStore.ts';
import type { Host } from './services.ts';

const CODE_MS = 5 * 60_000;
/** Wrong codes after which the code is void, and tries that one address has in a minute. */
const WRONG_CODES = 10;
const TRIES_A_MINUTE = 5;
const CLOSED: NetworkSettings = { open: false, address: '', names: [] };

type NetworkRows = Pick<NetworkStore, 'settings' | 'saveSettings' | 'peers' | 'addPeer' | 'updatePeer' | 'removePeer'>;

export class NetworkService {
  readonly #store: NetworkRows;
  readonly #host: Pick<Host, 'listen' | 'port'>;
  readonly #clock: Clock;
  readonly #peers = new Map<string, StoredPeer>();
  readonly #removed = new Set<(peerId: string) => void>();
  readonly #tries = new Map<string, number[]>();
  #settings = CLOSED;
  /** It may be closed all the same: its address was not there when it was to be opened. */
  #isMeantOpen = false;
  #code: { readonly code: string; readonly until: number; wrong: number } | null = null;

  constructor(store: NetworkRows, host: Pick<Host, 'listen' | 'port'>, clock: Clock) {
    this.#store = store;
    this.#host = host;
    this.#clock = clock;
  }

  async load(): Promise<void> {
    for (const peer of await this.#store.peers()) this.#peers.set(peer.id, peer);
    this.#settings = (await this.#store.settings()) ?? CLOSED;
    this.#isMeantOpen = this.#settings.open;
  }

  /** Listens again as it did before; asked again, tries again. A machine whose address has changed stays closed, and says so. */
  async resume(): Promise<Problem | null> {
    if (!this.#isMeantOpen) return null;
    const done = await this.#host.listen(this.#settings.address);
    this.#settings = { ...this.#settings, open: done.ok };
    return done.ok ? null : done.problem;
  }

  get settings(): NetworkSettings {
    return this.#settings;
  }

  state(): NetworkState {
    return {
      ...this.#settings,
      url: this.#settings.open ? `http://${this.#settings.address}:${this.#host.port}` : null,
      adapters: Object.entries(networkInterfaces()).flatMap(([name, all]) =>
        (all ?? []).filter((a) => a.family === 'IPv4' && !a.internal).map(({ address }) => ({ name, address })),
      ),
      peers: [...this.#peers.values()].map(({ tokenHash: _tokenHash, ...peer }) => peer),
    };
  }

  async change(settings: NetworkSettings): Promise<Result<NetworkState>> {
    const done = await this.#host.listen(settings.open ? settings.address : null);
    // What was open before is closed by now, so a failure leaves it closed.
    this.#settings = done.ok ? settings : { ...this.#settings, open: false };
    this.#isMeantOpen = this.#settings.open;
    await this.#store.saveSettings(this.#settings);
    if (!done.ok) return done;
    if (!settings.open) this.#code = null;
    return ok(this.state());
  }

  /** A new code for one phone or panel; the one before is void. */
  showCode(): Result<PairingCode> {
    if (!this.#settings.open) return fail('closed', 'The server is not open to the network.', 'Open it first.');
    this.#code = { code: String(randomInt(100_000_000)).padStart(8, '0'), until: this.#clock.now() + CODE_MS, wrong: 0 };
    return ok({ code: this.#code.code, validUntil: new Date(this.#code.until).toISOString() });
  }

  /**
   * Joins with a code. Tries are counted for each address, and a code is void after too many wrong ones.
   * @returns the token of the session, told only here
   */
  async join(code: string, name: string, from: string): Promise<Result<{ readonly token: string; readonly peer: Peer }>> {
    const now = this.#clock.now();
    const recent = (this.#tries.get(from) ?? []).filter((at) => now - at < 60_000);
    if (recent.length >= TRIES_A_MINUTE)
      return fail('too-many', 'Too many tries from here.', 'Wait a minute, and enter the code as it is shown.', 'code');
    this.#tries.set(from, [...recent, now]);
    if (this.#tries.size > 1000) this.#tries.clear();
    const open = this.#code && now < this.#code.until ? this.#code : null;
    if (!open) return fail('no-code', 'No code is valid now.', 'Ask the engineer to show a new one.', 'code');
    if (!sameText(code, open.code)) {
      if (++open.wrong >= WRONG_CODES) this.#code = null;
      return fail('wrong-code', 'That is not the code that is shown.', 'Enter its eight digits.', 'code');
    }
    this.#code = null;
    const token = randomBytes(32).toString('base64url');
    const at = isoTime(this.#clock);
    const peer: StoredPeer = { id: uuid(), name, rights: 'read', joinedAt: at, seenAt: at, tokenHash: hash(token) };
    await this.#store.addPeer(peer);
    this.#peers.set(peer.id, peer);
    const { tokenHash: _tokenHash, ...told } = peer;
    return ok({ token, peer: told });
  }

  /** Whose session a token is, or null. */
  peerOf(token: string): Peer | null {
    const wanted = hash(token);
    for (const peer of this.#peers.values()) if (sameText(peer.tokenHash, wanted)) return peer;
    return null;
  }

  async setRights(peerId: string, rights: PeerRights): Promise<Result<NetworkState>> {
    const peer = this.#peers.get(peerId);
    if (!peer) return fail('gone', 'It has not joined (any more).', 'Look at the list again.');
    this.#peers.set(peerId, { ...peer, rights });
    await this.#store.updatePeer(peerId, rights, peer.seenAt);
    this.#tellRemoved(peerId);
    return ok(this.state());
  }

  async remove(peerId: string): Promise<Result<NetworkState>> {
    if (!this.#peers.delete(peerId)) return fail('gone', 'It has not joined (any more).', 'Look at the list again.');
    await this.#store.removePeer(peerId);
    this.#tellRemoved(peerId);
    return ok(this.state());
  }

  /** Hears when what a peer may do has changed: its connections are closed, and it asks again. */
  onPeerChanged(listener: (peerId: string) => void): void {
    this.#removed.add(listener);
  }

  #tellRemoved(peerId: string): void {
    for (const listener of this.#removed) listener(peerId);
  }
}

function hash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/** Compares without telling by its time how far the texts are the same. */
function sameText(a: string, b: string): boolean {
  const [x, y] = [createHash('sha256').update(a).digest(), createHash('sha256').update(b).digest()];
  return timingSafeEqual(x, y);
}
