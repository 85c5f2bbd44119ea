/** What a bench and a panel host say to each other: sealed with the key of their pairing, but for the first words. */
import { array, number, object, string, type AnyObjectSchema, type InferType } from 'yup';
import type { PairingCode } from '../live/network.ts';
import type { WriteRecord } from '../live/writeOutcome.ts';
import { idText } from '../project/kinds/fieldSchemas.ts';

/** Grows when what is said changes so that an older program would take it wrongly. */
export const HOSTING_VERSION = 1;

/** Where a host is reached when nobody says otherwise. */
export const HOST_PORT = 4790;

/** Bytes of a project that go over at once, before they are base64. */
export const PART_BYTES = 512_000;
/** A project with its pictures. */
export const MOST_BYTES = 64_000_000;

/** Told to anybody who asks: no project, no names of devices. */
export interface HostGreeting {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  /** It shows a code at the moment. */
  readonly isPairing: boolean;
  /** For one call. */
  readonly nonce: string;
}

export type Phase =
  /** Nothing was sent yet. */
  | 'empty'
  /** It runs for some seconds now; should it break down, the one before comes back. */
  | 'trying'
  | 'running';

/** What runs, or ran before. */
export interface Hosted {
  readonly digest: string;
  readonly projectName: string;
  readonly panelId: string;
  readonly panelName: string;
  readonly tags: number;
  readonly pages: number;
  /** Name of the bench, and when by the clock of the host (ISO). */
  readonly sentBy: string;
  readonly sentAt: string;
}

export interface RolledBack {
  readonly digest: string;
  readonly why: string;
  readonly at: string;
}

export interface HostState {
  readonly id: string;
  readonly name: string;
  readonly program: string;
  readonly projectVersion: number;
  /** Such as `linux arm64, Node 20.20.2`. */
  readonly machine: string;
  /** Drivers that cannot run there, and why. */
  readonly missing: readonly { readonly driver: string; readonly why: string }[];
  /** By its own clock, in milliseconds since 1970. */
  readonly now: number;
  readonly freeBytes: number;
  readonly phase: Phase;
  readonly hosted: Hosted | null;
  /** What ran before, and can run again. */
  readonly before: Hosted | null;
  readonly rolledBack: RolledBack | null;
  /** People who have a PIN there. */
  readonly withPin: readonly string[];
  readonly unlocked: readonly { readonly deviceId: string; readonly who: string; readonly until: number }[];
  /** The number of the last line of its log of writes. */
  readonly logSeq: number;
}

const digest = () => string().matches(/^[0-9a-f]{64}$/, 'A digest is 64 hexadecimal digits.');
const base64 = (most: number) =>
  string()
    .max(most)
    .matches(/^[A-Za-z0-9+/]*={0,2}$/, 'Bytes are sent in base64.');
const pin = object({ operatorId: idText().required(), salt: base64(64).required(), hash: base64(64).required() }).noUnknown();
const secret = object({ id: idText().required(), secret: string().max(10_000).defined() }).noUnknown();

const CALLS = {
  state: object({ call: string().required() }),
  /** The bytes of the project file that runs there, from a place on. */
  read: object({ call: string().required(), from: number().integer().min(0).required() }),
  part: object({
    call: string().required(),
    transfer: idText().required(),
    from: number().integer().min(0).max(MOST_BYTES).required(),
    bytes: base64(Math.ceil(PART_BYTES / 3) * 4).required(),
  }),
  take: object({
    call: string().required(),
    transfer: idText().required(),
    /** Of the bytes of the project file (SHA-256). */
    sha256: digest().required(),
    /** Of what it says. */
    digest: digest().required(),
    panelId: idText().required(),
    /** What ran there when the person looked; null for nothing. Another one by now is not replaced unseen. */
    replaces: digest().nullable().defined(),
    pins: array().of(pin).max(500).required(),
    secrets: array().of(secret).max(500).required(),
  }),
  back: object({ call: string().required(), replaces: digest().required() }),
  log: object({ call: string().required(), after: number().integer().min(0).required() }),
  forget: object({ call: string().required() }),
} as const satisfies Record<string, AnyObjectSchema>;

export type CallName = keyof typeof CALLS;
export type CallOf<C extends CallName> = Omit<InferType<(typeof CALLS)[C]>, 'call'>;

/** What comes back when all went well. */
export interface Answers {
  readonly state: HostState;
  readonly read: { readonly bytes: string; readonly size: number; readonly digest: string };
  readonly part: { readonly have: number };
  readonly take: HostState;
  readonly back: HostState;
  readonly log: { readonly entries: readonly WriteRecord[]; readonly seq: number };
  readonly forget: null;
}

export function callIn(message: unknown): { readonly [C in CallName]: CallOf<C> & { readonly call: C } }[CallName] | null {
  const call = typeof message === 'object' && message !== null && 'call' in message ? String(message.call) : '';
  if (!Object.hasOwn(CALLS, call)) return null;
  const schema: AnyObjectSchema = CALLS[call as CallName].noUnknown(true);
  return schema.isValidSync(message, { strict: true }) ? (message as never) : null;
}

/** Not sealed: what begins a pairing. */
export const PAIR_BODY = object({ bench: string().trim().min(1).max(60).required(), key: base64(64).required() }).noUnknown();
export const PROVE_BODY = object({ pairing: idText().required(), proof: base64(64).required() }).noUnknown();
export const CALL_BODY = object({
  bench: idText().required(),
  nonce: string().max(64).required(),
  box: base64(2_000_000).required(),
}).noUnknown();

/** What the host's own page shows: to who stands before it. */
export interface HostAtHand extends HostState {
  readonly code: PairingCode | null;
  readonly benches: readonly { readonly id: string; readonly name: string; readonly pairedAt: string }[];
  readonly devices: readonly { readonly id: string; readonly name: string }[];
  readonly port: number;
}
export const NAME_BODY = object({ name: string().trim().min(1).max(60).required() }).noUnknown();
