/** OPC UA as a client: settings, node ids and help. Pure: runs in the browser too. */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import { choiceSetting, settingsSchema, wholeSetting } from '@/core/manifest/settingsSchema.ts';
import { settingsAs } from '@/core/manifest/yupOf.ts';
import { formatNodeAddress, NODE_FORMS, parseNodeAddress } from '@/core/opcua/nodeId.ts';
import { dissectChunk } from '@/core/opcua/dissect.ts';
import { ok } from '@/core/result.ts';
import type { DriverDescription } from '../contract.ts';
import { describedBy } from '../describedBy.ts';

export interface LinkSettings {
  readonly endpoint: string;
  readonly policy: 'None' | 'Basic256Sha256' | 'Aes128_Sha256_RsaOaep' | 'Aes256_Sha256_RsaPss';
  readonly mode: 'Sign' | 'SignAndEncrypt';
  /** SHA-256 of the server's certificate that a person has accepted, in hexadecimal; empty for none. */
  readonly trusted: string;
  readonly user: 'anonymous' | 'password' | 'certificate';
  readonly userName: string;
  readonly password: string;
  /** PEM. */
  readonly userCertificate: string;
  readonly userKey: string;
}
export interface DeviceSettings {
  /** The node under which it is browsed. */
  readonly root: string;
}
export interface Dialect {
  readonly timeoutMs: number;
  readonly publishMs: number;
  readonly aliveMs: number;
  readonly queueSize: number;
  readonly perRead: number;
  /** URIs of the namespaces by index as they were when addresses were written by index; the first is index 0. */
  readonly namespaces: readonly string[];
}
export interface PointSettings {
  readonly deadband: number;
}

const LINK = settingsSchema('An OPC UA server', {
  endpoint: {
    type: 'string',
    title: 'Address of the server',
    description: 'As the server or its manual has it; port 4840 unless it says otherwise.',
    default: 'opc.tcp://127.0.0.1:4840',
    pattern: '^opc\\.tcp:\\/\\/[^\\s\\/]{1,253}(\\/\\S{0,200})?$',
    'x-refusal': 'An address such as opc.tcp://192.0.2.20:4840.',
  },
  policy: choiceSetting(
    {
      Basic256Sha256: 'Basic256Sha256',
      Aes256_Sha256_RsaPss: 'Aes256_Sha256_RsaPss',
      Aes128_Sha256_RsaOaep: 'Aes128_Sha256_RsaOaep',
      None: 'none: anybody on the network can read and change what passes',
    },
    'Security policy',
    'How messages are protected. The test of the connection shows which ones the server offers.',
  ),
  mode: {
    ...choiceSetting(
      { SignAndEncrypt: 'signed and encrypted', Sign: 'signed' },
      'Messages are',
      'Signed ones can be read by others, and not changed.',
    ),
    'x-when': { setting: 'policy', is: ['Basic256Sha256', 'Aes256_Sha256_RsaPss', 'Aes128_Sha256_RsaOaep'] },
  },
  trusted: {
    type: 'string',
    title: 'Accepted certificate',
    description: 'SHA-256 fingerprint of the server’s certificate. Test the connection to see it and accept it; empty accepts none.',
    default: '',
    pattern: '^([0-9a-f]{64})?$',
    'x-refusal': 'A fingerprint is 64 hexadecimal digits.',
    'x-when': { setting: 'policy', is: ['Basic256Sha256', 'Aes256_Sha256_RsaPss', 'Aes128_Sha256_RsaOaep'] },
  },
  user: choiceSetting(
    { anonymous: 'nobody: anonymous', password: 'a user with a password', certificate: 'a user with a certificate' },
    'Signed in as',
    'What the server lets be read and written may depend on it.',
  ),
  userName: {
    type: 'string',
    title: 'User name',
    description: 'As the server knows it.',
    default: '',
    maxLength: 100,
    'x-when': { setting: 'user', is: ['password'] },
  },
  password: {
    type: 'string',
    title: 'Password',
    description: 'Kept encrypted on this machine, and never shown again.',
    default: '',
    writeOnly: true,
    'x-when': { setting: 'user', is: ['password'] },
  },
  userCertificate: {
    type: 'string',
    title: 'Certificate of the user',
    description: 'The text of its file in PEM form, from BEGIN CERTIFICATE to END CERTIFICATE.',
    default: '',
    format: 'file',
    maxLength: 15_000,
    'x-when': { setting: 'user', is: ['certificate'] },
  },
  userKey: {
    type: 'string',
    title: 'Private key of the user',
    description: 'Its file in PEM form, without a passphrase. Kept encrypted on this machine, and never shown again.',
    default: '',
    writeOnly: true,
    format: 'file',
    'x-when': { setting: 'user', is: ['certificate'] },
  },
});

const DEVICE = settingsSchema('A server of OPC UA', {
  root: {
    type: 'string',
    title: 'Browsed from',
    description: 'The node under which its variables are looked for; i=85 is all objects of the server.',
    default: 'i=85',
  },
});

const DIALECT = settingsSchema('OPC UA', {
  timeoutMs: wholeSetting('Response time-out', 'How long to wait for one answer of the server.', {
    min: 200,
    max: 60_000,
    default: 5000,
    'x-unit': 'ms',
  }),
  publishMs: wholeSetting('Publishing interval', 'How often the server may send what has changed.', {
    min: 50,
    max: 60_000,
    default: 250,
    'x-unit': 'ms',
  }),
  aliveMs: wholeSetting('Sign of life at least every', 'Where nothing changes, the server says so this often. Without it values turn bad.', {
    min: 500,
    max: 60_000,
    default: 5000,
    'x-unit': 'ms',
  }),
  queueSize: wholeSetting('Values kept between two publishings', '1 keeps the newest alone.', { min: 1, max: 100, default: 1 }),
  perRead: wholeSetting('Nodes per request', 'The most nodes that are asked for at once; a lower limit of the server is kept by itself.', {
    min: 1,
    max: 10_000,
    default: 1000,
  }),
  namespaces: {
    type: 'array',
    title: 'Namespaces by number',
    description:
      'URIs in the order that the server had when addresses were written by number, ns=2; the first line is number 0. Empty where all have their URI.',
    items: { type: 'string', maxLength: 300 },
    default: [],
    maxItems: 200,
  },
});

const POINT = settingsSchema('A node', {
  deadband: {
    type: 'number',
    title: 'Dead band',
    description: 'Changes up to this much are not sent; 0 sends every one.',
    default: 0,
    minimum: 0,
    maximum: 1e12,
  },
});

export const linkOf = settingsAs<LinkSettings>(LINK);
export const deviceOf = settingsAs<DeviceSettings>(DEVICE);
export const dialectOf = settingsAs<Dialect>(DIALECT);
export const pointSettingsOf = settingsAs<PointSettings>(POINT);

const MANIFEST: DriverManifest = {
  id: 'opc-ua',
  label: 'OPC UA',
  summary: 'Nodes of a server on the network, sent as they change',
  help: `**OPC UA** reads, writes and observes the variables of a server.

- *Address*: \`opc.tcp://\`, host and port, and a path where the server has one.
- *Security*: the server shows a certificate. Its fingerprint is accepted once, by a person who has compared it with the server; another one is then refused. Our own certificate is made at the first connection; most servers keep it among the rejected ones until somebody accepts it there.
- *Node ids* are kept with the URI of their namespace, \`nsu=http://example.com/mill;s=Weight\`: its number may be another one after the next start of the server.
- *Values* come by subscription: the server sends what has changed, with the time at its source.`,
  link: LINK,
  device: DEVICE,
  dialect: DIALECT,
  point: POINT,
  dialectGroups: [
    { title: 'How it is asked', fields: ['timeoutMs', 'publishMs', 'aliveMs', 'queueSize', 'perRead'] },
    { title: 'Where a value lies', fields: ['namespaces'] },
  ],
  namedDialects: [{ name: 'as the standard has it', settings: {} }],
  address: { forms: NODE_FORMS, pattern: '.+', ignoresCase: false, explains: 'node {address}' },
  capabilities: { write: true, identify: true, browse: true, observe: true, confirms: { by: 'asking' } },
  targetForm: '{endpoint}',
  partyForm: '',
};

export const opcUaDescription: DriverDescription = describedBy(MANIFEST, {
  notation: {
    forms: NODE_FORMS,
    example: 'ns=2;s=Weigher.Weight',
    parse(text, _type, dialect) {
      const address = parseNodeAddress(text, dialectOf(dialect).namespaces);
      return address.ok ? ok({ canonical: formatNodeAddress(address.value), bit: null, writable: true }) : address;
    },
    inside: (base, member) => `${base}${base.includes('#') ? '' : '#'}.${member}`,
    explain: (canonical) => `node ${canonical}`,
    format: (canonical) => canonical.replace(/^nsu=[^;]*;/, ''),
  },
  wireInWords: () => 'a typed value, sent when it changes',
  dissect: (_link, direction, bytes) => dissectChunk(direction, bytes),
  capture: (link) => {
    const port = portOf(linkOf(link).endpoint);
    return { encapsulation: { kind: 'tcp', port }, reading: `as OPC UA (opcua) on tcp.port==${port}; what is encrypted stays so` };
  },
});

export function portOf(endpoint: string): number {
  return Number(/:(\d{1,5})(?:\/|$)/.exec(endpoint.replace(/^opc\.tcp:\/\//, ''))?.[1] ?? 4840);
}

export function hostOf(endpoint: string): string {
  return /^opc\.tcp:\/\/(\[[^\]]+\]|[^:/]+)/.exec(endpoint)?.[1]?.replace(/^\[|\]$/g, '') ?? '';
}
