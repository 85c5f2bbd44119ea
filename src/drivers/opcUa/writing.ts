/** Values on their way to a server: each as its node declares it, several in one Write service (IEC 62541-4, 5.10.4). */
import { nodeIdIn, parseNodeAddress, type NodeAddress } from '@/core/opcua/nodeId.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { DriverFault, PointSpec, PointWrite } from '../contract.ts';
import type { Connection } from './connection.ts';
import { faultOf, variantFor } from './values.ts';
import type { UaSession } from './library.ts';

/** What came in time, or why it did not. */
export type Within<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly fault: DriverFault };
type InTime = <T>(work: Promise<T>) => Promise<Within<T>>;
type WriteItem = Parameters<UaSession['write']>[0][number];

/** Sent once: what comes of it after a time-out nobody knows. What cannot be sent at all keeps nothing else back. */
export async function writeNodes(connection: Connection, writes: readonly PointWrite[], inTime: InTime): Promise<readonly (DriverFault | null)[]> {
  const faults: (DriverFault | null)[] = writes.map(() => null);
  const items: { readonly at: number; readonly item: WriteItem }[] = [];
  const made = await Promise.all(writes.map((write) => itemOf(connection, write, inTime)));
  for (const [at, item] of made.entries())
    if ('fault' in item) faults[at] = item.fault;
    else items.push({ at, item: item.value });
  const atOnce = Math.min(items.length, connection.limits.write);
  for (let from = 0; from < items.length; from += atOnce) {
    const part = items.slice(from, from + atOnce);
    const sent = await inTime(connection.session.write(part.map(({ item }) => item)));
    for (const [i, { at }] of part.entries()) faults[at] = sent.ok ? faultIn(sent.value[i]) : { ...sent.fault, kind: 'unknown' };
    if (sent.ok) continue;
    for (const { at } of items.slice(from + atOnce)) faults[at] = { ...sent.fault, kind: 'aborted' };
    break;
  }
  return faults;
}

function faultIn(status: { readonly value: number; readonly name: string } | undefined): DriverFault | null {
  if (!status) return faultOf(new Error('BadUnexpectedError'), 'unknown');
  return status.value >>> 30 < 2 ? null : faultOf(new Error(status.name), 'refused');
}

async function itemOf(connection: Connection, { point, value: { raw } }: PointWrite, inTime: InTime): Promise<Within<WriteItem>> {
  const { ua, session } = connection;
  const refused = (kind: DriverFault['kind'], problem: DriverFault['problem']): Within<never> => ({ ok: false, fault: { kind, problem } });
  const place = placeOf(point, connection);
  if (!place.ok) return refused('settings', place.problem);
  const { nodeId, address } = place.value;
  const index = /^\[(\d+)\]$/.exec(address.member)?.[1];
  if (address.member !== '' && index === undefined)
    return refused('settings', {
      code: 'member',
      message: 'A member of a structure cannot be written alone.',
      remedy: 'Write a variable of its own, where the server has one.',
    });
  const builtIn = await inTime(session.getBuiltInDataType(ua.resolveNodeId(nodeId)));
  if (!builtIn.ok) return refused(builtIn.fault.kind === 'aborted' ? 'aborted' : 'refused', builtIn.fault.problem);
  const variant = variantFor(ua, ua.DataType[builtIn.value] ?? 'Null', raw, point.type);
  if (!variant.ok) return refused('settings', variant.problem);
  const value =
    index === undefined
      ? variant.value
      : new ua.Variant({ dataType: builtIn.value, arrayType: ua.VariantArrayType.Array, value: [variant.value.value] });
  const indexRange = index === undefined ? {} : { indexRange: new ua.NumericRange(index) };
  return { ok: true, value: { nodeId, attributeId: ua.AttributeIds.Value, ...indexRange, value: { value } } };
}

export function placeOf({ canonical }: PointSpec, { namespaces }: Connection): Result<{ readonly address: NodeAddress; readonly nodeId: string }> {
  const address = parseNodeAddress(canonical);
  if (!address.ok) return address;
  const nodeId = nodeIdIn(address.value, namespaces);
  return nodeId === null
    ? fail('namespace', 'The server has no such namespace now.', 'Browse it again: its program may have been changed.')
    : ok({ address: address.value, nodeId });
}
