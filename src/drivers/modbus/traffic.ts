/** What reading points of a device takes: its requests, and how long each occupies the line. Pure. */
import { isRegisterArea, type Area, type ModbusAddress } from '@/core/modbus/address.ts';
import { atOnce } from '@/core/inSlices.ts';
import type { SerialForm } from '@/core/modbus/serialFrame.ts';
import { characterMs, exchangeMs, silenceMs, USUAL_TURNAROUND_MS, type LineFormat } from '@/core/plan/lineTime.ts';
import { planningReads, type ReadCost, type Span } from '@/core/plan/readPlan.ts';
import type { PointSpec } from '../contract.ts';
import { parseCanonical, registerBytesOf, unitsOf } from './notation.ts';
import type { Dialect } from './settings.ts';

export interface Member extends Span {
  readonly key: string;
  readonly address: ModbusAddress;
  /** Bytes behind each of its addresses. */
  readonly registerBytes: 2 | 4;
}
export interface ReadRequest {
  readonly area: Area;
  readonly registerBytes: 2 | 4;
  readonly start: number;
  readonly count: number;
  readonly members: readonly Member[];
}
export interface TornRead {
  readonly member: Member;
  readonly pieces: readonly Span[];
}

export interface GroupPlan {
  readonly requests: readonly ReadRequest[];
  readonly torn: readonly TornRead[];
}
type ReadLimits = Pick<Dialect, 'maxRegisters' | 'maxBits' | 'maxGap'>;

export interface Line extends LineFormat {
  readonly form: SerialForm;
}

const AREAS: readonly Area[] = ['HR', 'IR', 'CO', 'DI'];
/** Members that are looked at in one step. */
const STEP = 1000;
const REQUEST_BYTES = 5;
/** Null for a point whose address is none of this protocol. */
export function memberOf({ key, canonical, type }: PointSpec, dialect: Pick<Dialect, 'wide'>): Member | null {
  const address = parseCanonical(canonical);
  if (!address) return null;
  return { key, address, start: address.offset, count: unitsOf(address, type, dialect), registerBytes: registerBytesOf(type, dialect) };
}

/** @param line null on a network, where a request costs far more than what it carries */
export function planGroup(all: readonly Member[], dialect: ReadLimits, line: Line | null): GroupPlan {
  return atOnce(planningGroup(all, dialect, line));
}

/** The same in steps, for thousands of members. */
export function* planningGroup(all: readonly Member[], dialect: ReadLimits, line: Line | null): Generator<void, GroupPlan> {
  const requests: ReadRequest[] = [];
  const torn: TornRead[] = [];
  const apart = yield* byAreaAndWidth(all);
  for (const area of AREAS)
    for (const registerBytes of [2, 4] as const) {
      const members = apart.get(`${area} ${registerBytes}`);
      if (!members) continue;
      const most = isRegisterArea(area) ? Math.floor((dialect.maxRegisters * 2) / registerBytes) : dialect.maxBits;
      const cost = line ? { cost: costOn(line, isRegisterArea(area) ? registerBytes : 1 / 8) } : {};
      const plan = yield* planningReads(members, { maxCount: Math.max(1, most), maxGap: dialect.maxGap, ...cost });
      const pick = (index: number): Member[] => (members[index] ? [members[index]] : []);
      for (const r of plan.requests) {
        yield;
        requests.push({ area, registerBytes, start: r.start, count: r.count, members: r.spans.flatMap(pick) });
      }
      for (const t of plan.torn) for (const member of pick(t.span)) torn.push({ member, pieces: t.pieces });
    }
  return { requests, torn };
}

function* byAreaAndWidth(all: readonly Member[]): Generator<void, ReadonlyMap<string, readonly Member[]>> {
  const apart = new Map<string, Member[]>();
  for (const [i, member] of all.entries()) {
    if (i % STEP === STEP - 1) yield;
    const key = `${member.address.area} ${member.registerBytes}`;
    const own = apart.get(key);
    if (own) own.push(member);
    else apart.set(key, [member]);
  }
  return apart;
}

function costOn(line: Line, bytesPerAddress: number): ReadCost {
  const byteMs = characterMs(line) * (line.form === 'ascii' ? 2 : 1);
  return { perRequest: exchangeMs(line.form, REQUEST_BYTES, 2, line) + USUAL_TURNAROUND_MS, perAddress: byteMs * bytesPerAddress };
}

/** Bytes of the PDU that answers. */
export function replyBytes(area: Area, count: number, registerBytes: 2 | 4): number {
  return 2 + (isRegisterArea(area) ? count * registerBytes : Math.ceil(count / 8));
}

/** Milliseconds on the line, silences included, the device's own turnaround not. */
export function requestMs({ area, count, registerBytes }: Pick<ReadRequest, 'area' | 'count' | 'registerBytes'>, line: Line): number {
  return exchangeMs(line.form, REQUEST_BYTES, replyBytes(area, count, registerBytes), line);
}

/** Of that, what passes between sending and the whole reply: the silence after it is not part of a round trip. */
export function roundTripMs(request: Pick<ReadRequest, 'area' | 'count' | 'registerBytes'>, line: Line): number {
  return requestMs(request, line) - silenceMs(line.form, line);
}
