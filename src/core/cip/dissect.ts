/** Takes a frame of EtherNet/IP apart in words: header, items, and the message with its service, path and status. */
import { hexOf, viewOf } from './bytes.ts';
import { COMMAND, carriedIn, frameStatusInWords, HEADER_BYTES, readFrame } from './encapsulation.ts';
import { identityIn } from './identity.ts';
import { CLASS, SERVICE } from './message.ts';
import { statusInWords } from './status.ts';
import { elementary, STRUCTURE, typeInWords } from './dataTypes.ts';
import { pathInWords } from './tagPath.ts';

interface Field {
  readonly name: string;
  readonly at: number;
  readonly bytes: number;
  readonly words: string;
}
export interface DissectedEip {
  readonly summary: string;
  readonly party: null;
  readonly service: string | null;
  readonly fields: readonly Field[];
  readonly isError: boolean;
}

const COMMANDS: Readonly<Record<number, string>> = {
  [COMMAND.nop]: 'nothing',
  [COMMAND.listServices]: 'list services',
  [COMMAND.listIdentity]: 'list identity',
  [COMMAND.listInterfaces]: 'list interfaces',
  [COMMAND.registerSession]: 'register session',
  [COMMAND.unregisterSession]: 'end session',
  [COMMAND.sendRRData]: 'message without a connection',
  [COMMAND.sendUnitData]: 'message on a connection',
};

/** Services whose number means another thing for the connection manager. */
const MANAGER: Readonly<Record<number, string>> = {
  [SERVICE.forwardOpen]: 'Forward Open',
  [SERVICE.largeForwardOpen]: 'Large Forward Open',
  [SERVICE.forwardClose]: 'Forward Close',
  [SERVICE.unconnectedSend]: 'Unconnected Send',
};
const SERVICES: Readonly<Record<number, string>> = {
  [SERVICE.getAttributesAll]: 'Get Attributes All',
  [SERVICE.getAttributeList]: 'Get Attribute List',
  0x0e: 'Get Attribute Single',
  [SERVICE.multiple]: 'Multiple Service Packet',
  [SERVICE.readTag]: 'Read Tag',
  [SERVICE.writeTag]: 'Write Tag',
  [SERVICE.modifyTag]: 'Read-Modify-Write Tag',
  [SERVICE.readFragmented]: 'Read Tag Fragmented',
  [SERVICE.writeFragmented]: 'Write Tag Fragmented',
  [SERVICE.forwardOpen]: 'Forward Open',
  [SERVICE.instanceAttributeList]: 'Get Instance Attribute List',
  [SERVICE.largeForwardOpen]: 'Large Forward Open',
};

export function dissectEip(direction: 'sent' | 'received', bytes: Uint8Array): DissectedEip {
  const fields: Field[] = [];
  const add = (name: string, at: number, length: number, words: string): void => void fields.push({ name, at, bytes: length, words });
  const read = readFrame(bytes);
  if (!read.ok) return { summary: `no frame of EtherNet/IP: ${read.problem.message}`, party: null, service: null, fields, isError: true };
  const { command, session, status, data } = read.value;
  const words = COMMANDS[command] ?? '';
  add('Command', 0, 2, `${hexOf(command, 2)}, ${words}`);
  add('Length', 2, 2, `${data.length} bytes`);
  add('Session', 4, 4, hexOf(session, 8));
  add('Status', 8, 4, status === 0 ? 'good' : frameStatusInWords(status));
  add('Sender context', 12, 8, String(read.value.context));
  if (status !== 0) return { summary: `${words}: ${frameStatusInWords(status)}`, party: null, service: words, fields, isError: true };
  if (command === COMMAND.listIdentity) {
    const identity = identityIn(data);
    return { summary: identity.ok ? `identity of ${identity.value.product}` : words, party: null, service: words, fields, isError: false };
  }
  if (command !== COMMAND.sendRRData && command !== COMMAND.sendUnitData)
    return { summary: words, party: null, service: words, fields, isError: false };
  const carried = carriedIn(data);
  if (!carried.ok) return { summary: `${words}: ${carried.problem.message}`, party: null, service: words, fields, isError: true };
  const { message } = carried.value;
  const at = message.byteOffset - bytes.byteOffset;
  if (carried.value.kind === 'connected') {
    add('Connection', HEADER_BYTES + 12, 4, hexOf(carried.value.connection, 8));
    add('Sequence number', at - 2, 2, String(carried.value.sequence));
  }
  const told = direction === 'sent' ? requestInWords(message, at, add) : replyInWords(message, at, add);
  return { ...told, party: null, fields };
}

type Add = (name: string, at: number, bytes: number, words: string) => void;
type Told = Pick<DissectedEip, 'summary' | 'service' | 'isError'>;

function requestInWords(message: Uint8Array, at: number, add: Add): Told {
  const code = message[0] ?? 0;
  const pathBytes = 2 * (message[1] ?? 0);
  const path = message.subarray(2, 2 + pathBytes);
  const rest = message.subarray(2 + pathBytes);
  if (message.length < 2 + pathBytes) return { summary: 'a message that is cut', service: null, isError: true };
  const isManager = path[0] === 0x20 && path[1] === CLASS.connectionManager;
  const service = (isManager ? MANAGER[code] : undefined) ?? SERVICES[code] ?? `service ${hexOf(code, 2)}`;
  add('Service', at, 1, `${hexOf(code, 2)}, ${service}`);
  add('Path', at + 1, 1 + pathBytes, pathInWords(path));
  if (isManager && code === SERVICE.unconnectedSend && rest.length > 4) {
    const length = viewOf(rest).getUint16(2, true);
    const inner = requestInWords(rest.subarray(4, 4 + length), at + 2 + pathBytes + 4, add);
    return { ...inner, summary: `${inner.summary}, along a route` };
  }
  if (code === SERVICE.multiple && rest.length >= 2) {
    const view = viewOf(rest);
    const count = view.getUint16(0, true);
    add('Services', at + 2 + pathBytes, 2, String(count));
    const first = rest.length >= 4 ? view.getUint16(2, true) : 0;
    const inner = first < rest.length ? requestInWords(rest.subarray(first), at + 2 + pathBytes + first, () => undefined) : null;
    return { summary: `${count} services, the first: ${inner?.summary ?? 'none'}`, service, isError: false };
  }
  return { summary: isManager ? service : `${service} ${pathInWords(path)}`, service, isError: false };
}

function replyInWords(message: Uint8Array, at: number, add: Add): Told {
  if (message.length < 4) return { summary: 'a reply that is cut', service: null, isError: true };
  const code = (message[0] ?? 0) & 0x7f;
  const service = SERVICES[code] ?? `service ${hexOf(code, 2)}`;
  const general = message[2] ?? 0;
  const words = message[3] ?? 0;
  const data = message.subarray(4 + 2 * words);
  const extended = words > 0 && message.length >= 6 ? viewOf(message).getUint16(4, true) : 0;
  add('Service', at, 1, `${hexOf((message[0] ?? 0) & 0xff, 2)}, answer to ${service}`);
  const isPart = general === 0x06;
  const said = general === 0 ? 'good' : statusInWords({ general, extended }).message;
  add('Status', at + 2, 2 + 2 * words, said);
  if (general !== 0 && !isPart && general !== 0x1e) return { summary: `${service}: ${said}`, service, isError: true };
  if (code === SERVICE.multiple && data.length >= 2) {
    const count = viewOf(data).getUint16(0, true);
    add('Services', at + 4 + 2 * words, 2, String(count));
    return { summary: `${count} answers${general === 0 ? '' : ', of which some are refusals'}`, service, isError: general !== 0 };
  }
  if ((code === SERVICE.readTag || code === SERVICE.readFragmented) && data.length >= 2) {
    const type = viewOf(data).getUint16(0, true);
    const head = type === STRUCTURE ? 4 : 2;
    add('Type', at + 4 + 2 * words, head, typeInWords(type));
    const width = elementary(type)?.bytes ?? 0;
    const count = width > 0 ? Math.floor((data.length - head) / width) : 0;
    return {
      summary: `${typeInWords(type)}${count > 1 ? ` × ${count}` : ''}, ${data.length - head} bytes${isPart ? ', more follows' : ''}`,
      service,
      isError: false,
    };
  }
  return { summary: `${service}: ${isPart ? 'good, more follows' : 'good'}`, service, isError: false };
}
