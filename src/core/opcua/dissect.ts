/** Takes a chunk of OPC UA over TCP apart (IEC 62541-6, 6.7 and 7.1). What is encrypted is said to be so. */

interface Field {
  readonly name: string;
  readonly at: number;
  readonly bytes: number;
  readonly words: string;
}
export interface DissectedChunk {
  readonly summary: string;
  readonly party: null;
  readonly service: string | null;
  readonly fields: readonly Field[];
  readonly isError: boolean;
}

const TYPES: Readonly<Record<string, string>> = {
  HEL: 'hello',
  ACK: 'acknowledge',
  ERR: 'error',
  OPN: 'secure channel opened or renewed',
  MSG: 'message',
  CLO: 'secure channel closed',
};
/** Binary encoding ids of services (IEC 62541-6, A.3: NodeIds.csv). */
const SERVICES: ReadonlyMap<number, string> = new Map([
  [397, 'ServiceFault'],
  [428, 'GetEndpoints request'],
  [431, 'GetEndpoints response'],
  [446, 'OpenSecureChannel request'],
  [449, 'OpenSecureChannel response'],
  [452, 'CloseSecureChannel request'],
  [461, 'CreateSession request'],
  [464, 'CreateSession response'],
  [467, 'ActivateSession request'],
  [470, 'ActivateSession response'],
  [473, 'CloseSession request'],
  [476, 'CloseSession response'],
  [527, 'Browse request'],
  [530, 'Browse response'],
  [533, 'BrowseNext request'],
  [536, 'BrowseNext response'],
  [631, 'Read request'],
  [634, 'Read response'],
  [673, 'Write request'],
  [676, 'Write response'],
  [751, 'CreateMonitoredItems request'],
  [754, 'CreateMonitoredItems response'],
  [781, 'DeleteMonitoredItems request'],
  [784, 'DeleteMonitoredItems response'],
  [787, 'CreateSubscription request'],
  [790, 'CreateSubscription response'],
  [826, 'Publish request'],
  [829, 'Publish response'],
  [847, 'DeleteSubscriptions request'],
  [850, 'DeleteSubscriptions response'],
]);

export function dissectChunk(_direction: 'sent' | 'received', frame: Uint8Array): DissectedChunk {
  const fields: Field[] = [];
  const add = (name: string, at: number, bytes: number, words: string): void => void fields.push({ name, at, bytes, words });
  const type = frame.length >= 8 ? String.fromCharCode(...frame.subarray(0, 3)) : '';
  const words = TYPES[type];
  if (words === undefined) return { summary: 'no chunk of OPC UA', party: null, service: null, fields, isError: true };
  const view = new DataView(frame.buffer, frame.byteOffset, frame.byteLength);
  const length = view.getUint32(4, true);
  add('Type', 0, 3, `${type}, ${words}`);
  add('Chunk', 3, 1, chunkWords(String.fromCharCode(frame[3] ?? 0)));
  add('Length', 4, 4, `${length} bytes`);
  const isShort = length !== frame.length;
  let service: string | null = null;
  if (type === 'ERR' && frame.length >= 12) add('Status code', 8, 4, `${view.getUint32(8, true).toString(16).padStart(8, '0')}h`);
  if ((type === 'MSG' || type === 'CLO') && frame.length >= 24) {
    add('Secure channel', 8, 4, String(view.getUint32(8, true)));
    add('Token', 12, 4, String(view.getUint32(12, true)));
    add('Sequence number', 16, 4, String(view.getUint32(16, true)));
    add('Request', 20, 4, String(view.getUint32(20, true)));
    service = serviceAt(view, 24);
    add('Service', 24, 4, service ?? 'encrypted, or one that is not known here');
  }
  const summary = `${type === 'MSG' ? (service ?? 'message') : words}, ${frame.length} bytes${isShort ? `, ${length} were announced` : ''}`;
  return { summary, party: null, service: service ?? type, fields, isError: type === 'ERR' || isShort || service === 'ServiceFault' };
}

function chunkWords(letter: string): string {
  return letter === 'F' ? 'the last of its message' : letter === 'C' ? 'others follow' : letter === 'A' ? 'given up' : 'not known';
}

/** The type id at the start of a body in clear: a node id of four bytes in namespace 0. */
function serviceAt(view: DataView, at: number): string | null {
  if (view.byteLength < at + 4 || view.getUint8(at) !== 1 || view.getUint8(at + 1) !== 0) return null;
  return SERVICES.get(view.getUint16(at + 2, true)) ?? null;
}
