/**
 * What a driver is. It has two halves: a description, pure and usable in a browser, and a session, which owns
 * sockets and ports. Nothing above this contract knows which protocol it is.
 *
 * Duties of every session: values of several registers are never split over two requests (one that cannot fit
 * is handed over as torn); a read may be repeated, a write never; nothing waits over a reconnect; a late reply
 * never becomes the value of another request; each frame sent or received goes to the trace.
 */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import type { PlainNumberArea } from '@/core/taglist/addressRule.ts';
import type { ProbeReading } from '@/core/find/knownValue.ts';
import type { Signature } from '@/core/signature/recognise.ts';
import type { Layout } from '@/core/taglist/layout.ts';
import type { Problem, Result } from '@/core/result.ts';
import type { Encapsulation } from '@/core/trace/pcap.ts';
import type { WireValue } from '@/core/signal.ts';
import type { ByteOrder } from '@/core/value/byteOrder.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { DataType, TextLayout } from '@/core/value/dataType.ts';

export type Settings = Readonly<Record<string, unknown>>;

// ——— description ———

export interface ParsedAddress {
  /** The one form that is stored in digests and handed to sessions. */
  readonly canonical: string;
  /** Bit inside a register for a BOOL, else null. */
  readonly bit: number | null;
  readonly writable: boolean;
}

/** Address notations of a protocol as one device reads them. */
export interface AddressNotation {
  /** Any accepted notation; refuses an address that cannot hold the type. */
  parse(text: string, type: DataType, dialect: Settings): Result<ParsedAddress>;
  /** The address, as the device writes it, of a value that lies so many bits after another address: the member of a structure, the element of an array. */
  member?(base: string, atBit: number, type: DataType, dialect: Settings): Result<string>;
  /** The address, as the device writes it, of a member of a structure at an address; where places are told by names. */
  inside?(base: string, member: string): string;
  /** The same place in every notation that the device reads, the canonical one first. */
  ways?(canonical: string, type: DataType, dialect: Settings): readonly string[];
  /** The address that was likeliest meant by one that is refused; null where nobody can tell. */
  nearest?(text: string, type: DataType, dialect: Settings): string | null;
  /** One sentence about a canonical address, the counting base made visible. */
  explain(canonical: string, dialect: Settings): string;
  /** The memory that a value takes, short: `HR19–20`. */
  format(canonical: string, type: DataType, dialect: Settings): string;
  /** Accepted notations with examples, for messages. */
  readonly forms: string;
  /** One address, for placeholders. */
  readonly example: string;
}

/** What a driver says of itself: its manifest, and functions where the general ones that follow from it do not do. */
export type DriverDescription = DriverManifest & DriverFunctions;

export interface DriverFunctions {
  readonly notation: AddressNotation;
  /** Where the link goes, short: `127.0.0.1:1502`. */
  target(link: Settings): string;
  /** Which party of its link a device is: `unit 3`; empty where there is only one. */
  party(device: Settings): string;
  /** All that identifies a value at its source, for the digest of a signal path. */
  origin(link: Settings, device: Settings, dialect: Settings, canonical: string): readonly string[];
  /** How a value is read, for the wire stage: `function 3, 2 registers`. */
  wireInWords(canonical: string, type: DataType, dialect: Settings): string;
  /** Its values come as bytes, in an order that may have to be set. */
  readonly bytes?: BytePart;
  /** Its values lie in memory that can be drawn: cells one after another. */
  readonly memory?: MemoryPart;
  /** Its addresses can be moved: another tag says which of several equal places is meant. */
  readonly indexed?: IndexedPart;
  /** Its addresses are numbers: lists write them without their area, or count them from another number than the device. */
  readonly numbered?: NumberedPart;
  /** Takes a frame of the trace apart in words. */
  dissect?(link: Settings, direction: FrameEvent['direction'], bytes: Uint8Array): DissectedFrame;
  /** The requests that reading the points once takes. */
  foresee?(link: Settings, device: Settings, dialect: Settings, points: readonly PointSpec[]): readonly ForeseenRequest[];
  /** The serial line that a link leads over, null for none. */
  line?(link: Settings): { readonly words: string; readonly silenceMs: number } | null;
  /** The setting of a device, a whole number, that tells the devices of a link apart: {@link DriverSession.scan} tries them one by one. */
  readonly scansNumbers?: string;
  /** Settings of a link that its line may have, the likeliest first, where they can be found out by trying: {@link DriverSession.scan} tries the numbers with each. */
  readonly searchesLine?: readonly Settings[];
  /** Whoever speaks it on a network can be found before there is a link: {@link Driver.discover}. */
  readonly discovers?: true;
  /** How the frames of the trace travelled, for a capture file; and how an analyser is told to read them. */
  capture?(link: Settings): { readonly encapsulation: Encapsulation; readonly reading: string };
}

export interface BytePart {
  /** The order that a device uses where a tag names none. */
  defaultOrder(dialect: Settings, type: DataType): ByteOrder;
  /** The setting of a dialect that says the order of such values; null where it is not said by one. */
  orderSetting?(type: DataType): string | null;
  /** How it lays out structures, and texts of which only the length is said: what is new is made so. */
  laysOut?(dialect: Settings): { readonly structures: Layout; readonly texts: TextLayout };
  /** How it does all this can be learnt from a block of known values that its program fills. */
  readonly signature?: SignaturePart;
}

/** A block of known values: where it is looked for, and what it says of the device's own settings. */
export interface SignaturePart {
  /** What a person tells: where in the program's own counting the block begins. */
  readonly placeTitle: string;
  readonly placeHelp: string;
  /** Of the number that the manual gives to that place. */
  readonly referenceHelp: string;
  /** How the program declares that place. */
  declared(word: number): string;
  /** Stretches of memory in which the block may lie, the likeliest first. */
  windows(word: number, dialect: Settings): readonly { readonly area: string; readonly from: number; readonly count: number }[];
  /** The settings of the dialect that follow from the block. Problems are placed at `word` or `reference`. */
  settings(found: Signature, asked: SignatureAsked): Result<Settings>;
}
export interface SignatureAsked {
  readonly word: number;
  /** The number that the manual gives to the first register of the block; empty where nobody knows. */
  readonly reference: string;
  /** Cell of the first word in which the block was looked for. */
  readonly firstCell: number;
  readonly dialect: Settings;
}

export interface IndexedPart {
  /** What an index counts: `registers, or bits where places are bits`. */
  readonly counts: string;
  /** The same kind of value so many places further on; refused where there is none. */
  moved(canonical: string, by: number, type: DataType, dialect: Settings): Result<string>;
}

/** How the numbers of a list lead to addresses. */
export interface NumberedPart {
  /** What a number without an area may name. */
  readonly areas: readonly PlainNumberArea[];
  /** What the device counts from. */
  countsFrom(dialect: Settings): 0 | 1;
}

/** One request of a read plan before it is sent. */
export interface ForeseenRequest {
  readonly area: string;
  readonly start: number;
  readonly count: number;
  /** Where the values lie in it. */
  readonly used: readonly { readonly start: number; readonly count: number }[];
  /** Keys of the points that it reads. */
  readonly keys: readonly string[];
  /** Time on the line, silences included, in milliseconds; null where there is no line whose speed is known. */
  readonly lineMs: number | null;
  /** Of that, up to the end of the reply. */
  readonly roundTripMs: number | null;
}

export interface DissectedFrame {
  /** One line, without who is addressed. */
  readonly summary: string;
  /** Who is addressed, as {@link DriverFunctions.party} says it; null where nobody is. */
  readonly party: string | null;
  /** What is asked, short, by which frames are told apart: `3`, `Read`; null where it is not known. */
  readonly service: string | null;
  readonly fields: readonly { readonly name: string; readonly at: number; readonly bytes: number; readonly words: string }[];
  readonly isError: boolean;
}

// ——— session ———

/** A stretch of memory with cells one after another. */
export interface MemoryArea {
  readonly id: string;
  readonly words: string;
  /** Of one cell, which has one address. */
  readonly cellBits: number;
  /** What one cell is called: `register`. */
  readonly cell: string;
  readonly cells: number;
  readonly canWrite: boolean;
}

export interface MemoryPart {
  readonly areas: readonly MemoryArea[];
  /** The bits of an area that a value takes, counted from the first; null where that is not known. */
  spanOf(canonical: string, type: DataType, dialect: Settings): { readonly area: string; readonly from: number; readonly bits: number } | null;
  /** The address of a cell, or of a bit in it counted from the least significant, as the device's manual would write it. */
  addressAt(area: string, cell: number, bit: number | null, dialect: Settings): string;
}

export interface Clock {
  /** Milliseconds since 1970; never goes back. */
  now(): number;
  /** Calls once after a time; returns what cancels it. */
  after(ms: number, call: () => void): () => void;
}

export interface CallContext {
  readonly signal: AbortSignal;
  /** Clock time at which the caller no longer wants the answer. */
  readonly deadline: number;
  /**
   * A state that was held on is let go: it goes before all that waits, and where the line can take it beside a read that
   * has not been answered for a while. It is repeated, so it may be lost that way.
   */
  readonly goesFirst?: boolean;
}

/**
 * Why there is no value. `silent`: no answer in time. `refused`: the device answered that it will not.
 * `unknown`: a write was sent and nobody knows whether it was carried out.
 */
export interface DriverFault {
  readonly kind: 'link-down' | 'silent' | 'refused' | 'malformed' | 'settings' | 'aborted' | 'unknown';
  readonly problem: Problem;
}

export interface FrameEvent {
  readonly at: number;
  readonly direction: 'sent' | 'received';
  /** A view that stays valid; not to be changed. */
  readonly bytes: Uint8Array;
  /** What is odd about it, in words. */
  readonly note?: string;
  readonly oddity?: FrameOddity;
}

/**
 * What can be odd about received bytes: `late` its request was given up · `unasked` answers no request · `again` a reply that has come before ·
 * `noise` no frame · `checksum` a frame that is damaged · `short` one that was cut · `echo` what was sent came back ·
 * `stranger` another unit speaks · `unfit` a good frame that does not answer the request · `protocol` not this protocol.
 */
export type FrameOddity = 'late' | 'unasked' | 'again' | 'noise' | 'checksum' | 'short' | 'echo' | 'stranger' | 'unfit' | 'protocol';

export interface LinkState {
  readonly phase: 'connecting' | 'connected' | 'waiting' | 'closed';
  /** Why it is not connected. */
  readonly problem: Problem | null;
  /** Clock time of the next attempt while waiting. */
  readonly retryAt: number | null;
}

export interface SessionOptions {
  /** With their secrets. */
  readonly settings: Settings;
  /** A folder of this driver's own, for what has to outlive the server: certificates. It may not be there yet. */
  readonly folder?: string;
  readonly clock: Clock;
  readonly onFrame: (frame: FrameEvent) => void;
  readonly onState: (state: LinkState) => void;
}

/** One tag as a session sees it. */
export interface PointSpec {
  readonly key: string;
  readonly canonical: string;
  /** What the driver asks of a point beside its address. */
  readonly settings?: Settings;
  readonly type: DataType;
}

export type Arrival = ValueArrival | { readonly fault: DriverFault; readonly at: number };
export interface ValueArrival {
  readonly wire: WireValue;
  readonly torn: boolean;
  readonly at: number;
  readonly roundTripMs: number;
  /** When the source says that it took the value, by its own clock, in milliseconds since 1970. */
  readonly sourceAt?: number | undefined;
  /** Why the source itself is not sure of the value, in its words. A value that it calls bad is a fault. */
  readonly doubted?: string | undefined;
}
export type Sink = (key: string, arrival: Arrival) => void;

/** Points that are read together, grouped into requests the protocol's own way. */
export interface ReadGroup {
  /** Requests that one reading takes now. */
  readonly requestCount: number;
  /**
   * Reads all points once; each gets exactly one arrival. Returns the fault that kept the whole device from
   * answering, or null. A silent device is given up after the first silent request, retries included.
   */
  read(sink: Sink, context: CallContext): Promise<DriverFault | null>;
}

export interface WriteValue {
  readonly raw: RawValue;
  readonly bytes: Uint8Array;
  /** For one bit inside `bytes`: ones where it lies. The rest of them is not ours to write. */
  readonly mask: Uint8Array | null;
}

export interface TestStage {
  /** `settings`, `host`, `protocol`, `unit`, `area HR`, `identification`, `times`. */
  readonly id: string;
  readonly title: string;
  /** `noted`: it works, and there is something to know. */
  readonly state: 'passed' | 'noted' | 'failed' | 'skipped';
  readonly ms: number;
  /** What was seen. */
  readonly seen: string;
  /** For a failure: what it means. */
  readonly meaning?: string;
  /** Likely causes, the likeliest first, each with what to do. Several at once where they look alike from here. */
  readonly causes?: readonly TestCause[];
  /** What was sent and came during the stage. */
  readonly frames?: readonly FrameEvent[];
  /** Settings that a person may decide on, having seen what the stage tells. */
  readonly proposal?: SettingsProposal;
}

/** Settings of a link or device that are offered, with the words on the button. */
export interface SettingsProposal {
  readonly label: string;
  readonly of: 'link' | 'device';
  readonly settings: Settings;
}

export interface TestCause {
  /** Stable word for the cause: `unit`, `speed`, `two-devices`. */
  readonly id: string;
  readonly cause: string;
  readonly remedy: string;
}

export interface BrowsedNode {
  /** The name of the enumeration whose value it is. */
  readonly enumeration?: string;
  readonly path: string;
  readonly canonical: string;
  readonly type: string | null;
  readonly hasChildren: boolean;
  /** The structures that it is a member of, the outermost first. */
  readonly within?: readonly string[];
  /** What else the device tells of a tag, in the words of a tag list: `unit`, `comment`, `low` … */
  readonly told?: Readonly<Record<string, string | number | boolean>>;
}

/** A point that is observed. */
export interface ObservedPoint extends PointSpec {
  /** How often a change is wanted at the most, in milliseconds. */
  readonly everyMs: number;
}
/** Who observes. */
export interface Observer {
  /** A value that came. It stays good until another comes, or the observation ends. */
  readonly sink: Sink;
  /** Everything is as it was told; without another sign within so many milliseconds nothing of it is good any more. */
  readonly alive: (forMs: number) => void;
  /** The observation is over; another one is begun after a while. */
  readonly lost: (fault: DriverFault) => void;
}
/** What is observed of one device, until it is closed or lost. */
export interface Observation {
  /** Each gets an arrival soon, a fault where there is no such point, and one whenever it changes. */
  add(points: readonly ObservedPoint[]): void;
  remove(keys: readonly string[]): void;
  close(): void;
}

export interface PointWrite {
  readonly point: PointSpec;
  readonly value: WriteValue;
}

export interface DeviceSession {
  prepare(points: readonly PointSpec[]): ReadGroup;
  /** The same in steps, for thousands of points: between them everything else gets its turn. */
  preparing?(points: readonly PointSpec[]): Generator<void, ReadGroup>;
  /** Sends once and never repeats. Null when the device confirmed. */
  write(point: PointSpec, value: WriteValue, context: CallContext): Promise<DriverFault | null>;
  /**
   * Sends several in as few requests as the protocol has, in their order, each of them once. What became of each, null where the
   * device confirmed. Where this is not offered they go one after the other.
   */
  writeAll?(writes: readonly PointWrite[], context: CallContext): Promise<readonly (DriverFault | null)[]>;
  /** Stage after stage; stops at the first that fails, the rest are skipped. */
  test(points: readonly PointSpec[], context: CallContext): AsyncIterable<TestStage>;
  /** Reads where a reference may lead, in every way to count and to ask; for a value that is known from elsewhere. */
  sight?(reference: string, context: CallContext): Promise<Result<readonly ProbeReading[]>>;
  /** Whether the device answers at all, for one of which nothing is read. Null when it does. */
  isThere?(context: CallContext): Promise<DriverFault | null>;
  /** What the device says of itself; `revision` is the version of its program. */
  identify?(context: CallContext): Promise<Result<Readonly<Record<string, string>>>>;
  browse?(path: string, context: CallContext): Promise<Result<readonly BrowsedNode[]>>;
  /** Values come by themselves. Where a device offers this, its points are observed and not read by their period. */
  observe?(observer: Observer): Observation;
}

export interface DriverSession {
  /** Begins to connect and keeps connecting, with growing delay, until closed. */
  start(): void;
  close(): void;
  readonly state: LinkState;
  /** Settings that the schemas accepted. */
  device(settings: Settings, dialect: Settings): DeviceSession;
  /** Asks each number for one value, read only; what came of it, one by one. */
  scan?(numbers: readonly number[], timeoutMs: number, context: CallContext): AsyncIterable<ScannedNumber>;
}

export interface ScannedNumber {
  readonly number: number;
  readonly answer: 'value' | 'refusal' | 'damaged' | 'silent';
  readonly ms: number;
  /** What was seen: its identification where it has one. */
  readonly seen: string;
}

/** Somebody who answered on a network. */
export interface FoundParty {
  /** What a link is set to that leads there, as far as it is known. */
  readonly settings: Settings;
  readonly where: string;
  /** Who it says it is. */
  readonly seen: string;
}

export interface Driver {
  readonly description: DriverDescription;
  createSession(options: SessionOptions): DriverSession;
  /** What it needs of this machine and does not find; null where all is there. */
  lacks?(): Promise<string | null>;
  /**
   * Asks everybody on a network who they are, and tells each answer once. Writes nothing.
   * @param settings of a link that is not made yet: the adapter to ask by, the port
   */
  discover?(settings: Settings, context: CallContext): AsyncIterable<Result<FoundParty>>;
}
