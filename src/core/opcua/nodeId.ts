/**
 * Node ids with the URI of their namespace: an index belongs to one run of a server, the URI does not (IEC 62541-3, 8.2.2).
 * Written as IEC 62541-6, 5.3.1.10 writes them: `nsu=http://example.com/mill;s=Weight`, `i=2258`.
 */
import { fail, ok, type Result } from '../result.ts';

export interface NodeAddress {
  /** URI of the namespace; empty for that of the standard itself, index 0. */
  readonly namespace: string;
  /** `s=Weight`, `i=2258`, `g=…`, `b=…` */
  readonly id: string;
  /** Of a structure or array, as it is written behind a #: `[2].weight`; empty for the value itself. */
  readonly member: string;
}

export const NODE_FORMS = 'nsu=http://example.com/mill;s=Weight, i=2258, or s=Levels#[2] for an element';
const MEMBER = /#((?:\.[A-Za-z_][A-Za-z0-9_]*|\[\d{1,6}\]){1,8})$/;
const STANDARD = 'http://opcfoundation.org/UA/';

/** @param known URIs by index as the server had them when it was browsed, for addresses written by index; 0 is the standard's */
export function parseNodeAddress(text: string, known: readonly string[] = []): Result<NodeAddress> {
  const whole = text.trim();
  const member = MEMBER.exec(whole)?.[1] ?? '';
  const written = member === '' ? whole : whole.slice(0, -member.length - 1);
  const match = /^(?:nsu=([^;]{1,300});|ns=(\d{1,5});)?((?:i=\d{1,10})|(?:s=.{1,300})|(?:g=[0-9a-f-]{36})|(?:b=[A-Za-z0-9+/]{1,300}={0,2}))$/is.exec(
    written,
  );
  const id = match?.[3];
  if (!match || id === undefined) return fail('address-form', `“${written.slice(0, 60)}” is no node id.`, `Write ${NODE_FORMS}.`);
  if (id.startsWith('i=') && Number(id.slice(2)) > 0xffff_ffff)
    return fail('address-form', 'The number of a node is at most 4294967295.', 'Copy the node id from the server.');
  const kept = `${id.slice(0, 1).toLowerCase()}${id.slice(1)}`;
  const [uri, index] = [match[1], match[2]];
  if (uri !== undefined) return ok({ namespace: uri === STANDARD ? '' : uri, id: kept, member });
  if (index === undefined || Number(index) === 0) return ok({ namespace: '', id: kept, member });
  const namespace = known[Number(index)];
  return namespace === undefined
    ? fail(
        'namespace',
        `Which namespace is number ${index} is not known: the number belongs to one run of the server.`,
        'Write the URI of the namespace, nsu=…;, or browse the server: then it is known.',
      )
    : ok({ namespace, id: kept, member });
}

export function formatNodeAddress({ namespace, id, member }: NodeAddress): string {
  const node = namespace === '' ? id : `nsu=${namespace};${id}`;
  return member === '' ? node : `${node}#${member}`;
}

/** The node itself, whatever member of it is meant. @param table the URIs of the server's namespaces as they are now, by index; null where it does not have this one */
export function nodeIdIn({ namespace, id }: NodeAddress, table: readonly string[]): string | null {
  if (namespace === '') return id;
  const index = table.indexOf(namespace);
  return index < 0 ? null : `ns=${index};${id}`;
}

/** From a node id of the server as it is now. @param nodeId `ns=2;s=Weight` */
export function addressOfNode(nodeId: string, table: readonly string[]): NodeAddress {
  const match = /^(?:ns=(\d+);)?(.*)$/s.exec(nodeId);
  const index = Number(match?.[1] ?? 0);
  return { namespace: index === 0 ? '' : (table[index] ?? `urn:unknown:${index}`), id: match?.[2] ?? nodeId, member: '' };
}

/** A way into a structure or array: `[2].weight`. */
export type MemberPath = readonly (string | number)[];

export function parseMember(text: string): MemberPath {
  return [...text.matchAll(/\.([A-Za-z_][A-Za-z0-9_]*)|\[(\d+)\]/g)].map(([, name, index]) => name ?? Number(index));
}
