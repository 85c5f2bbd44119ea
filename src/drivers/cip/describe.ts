/** Controllers with named tags over EtherNet/IP: settings, addresses and help. Pure: runs in the browser too. */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import { choiceSetting, NO_SETTINGS, settingsSchema, wholeSetting } from '@/core/manifest/settingsSchema.ts';
import { settingsAs } from '@/core/manifest/yupOf.ts';
import { dissectEip } from '@/core/cip/dissect.ts';
import { fitsPath, formatTagPath, parseTagPath, TAG_FORMS } from '@/core/cip/tagPath.ts';
import { fail, ok } from '@/core/result.ts';
import type { DriverDescription } from '../contract.ts';
import { describedBy } from '../describedBy.ts';
import { hostSettings, type HostSettings } from '../networkSettings.ts';

export type LinkSettings = HostSettings;
export interface DeviceSettings {
  readonly route: string;
}
export interface Dialect {
  readonly timeoutMs: number;
  readonly messages: 'connected' | 'unconnected';
  readonly messageBytes: number;
  readonly packing: boolean;
}

const LINK = settingsSchema(
  'An adapter of EtherNet/IP',
  hostSettings({ usual: 44818, told: '44818 by the standard; simulated devices commonly use others.' }),
);

const DEVICE = settingsSchema('A controller with named tags', {
  route: {
    type: 'string',
    title: 'Route to the processor',
    description: 'Port and slot behind the host, 1,0 for slot 0 of its backplane; empty where the host itself is the processor.',
    default: '1,0',
    maxLength: 200,
    pattern: '^\\s*(\\d{1,5}\\s*,\\s*[A-Za-z0-9.:_\\-]{1,60}(\\s*,\\s*\\d{1,5}\\s*,\\s*[A-Za-z0-9.:_\\-]{1,60}){0,7})?\\s*$',
    'x-refusal': 'Pairs of a port and a slot or address, such as 1,0.',
  },
});

const DIALECT = settingsSchema('EtherNet/IP', {
  timeoutMs: wholeSetting('Response time-out', 'How long to wait for one answer of the controller.', {
    min: 50,
    max: 60_000,
    default: 2000,
    'x-unit': 'ms',
  }),
  messages: choiceSetting(
    { connected: 'on a connection', unconnected: 'without a connection' },
    'Messages travel',
    'A connection takes larger messages; a controller has a limited number of them.',
  ),
  messageBytes: {
    ...wholeSetting('Largest message', 'Asked of the controller; a smaller size that it grants is taken.', {
      min: 100,
      max: 65_000,
      default: 4000,
      'x-unit': 'bytes',
    }),
    'x-when': { setting: 'messages', is: ['connected'] },
  },
  packing: {
    type: 'boolean',
    title: 'Several services in one message',
    description: 'Off for a device that takes only one at a time.',
    default: true,
  },
});

export const linkOf = settingsAs<LinkSettings>(LINK);
export const deviceOf = settingsAs<DeviceSettings>(DEVICE);
export const dialectOf = settingsAs<Dialect>(DIALECT);

const MANIFEST: DriverManifest = {
  id: 'ethernet-ip',
  label: 'EtherNet/IP, named tags',
  summary: 'Tags of a controller by their names, over the network',
  help: `**EtherNet/IP** reads and writes the tags of a controller by their names.

- *Host*: the adapter on the network: the processor itself, or the communication module of its rack.
- *Route*: the way from there to the processor, \`1,0\` for slot 0 of the backplane.
- *Address*: the name of a tag as the controller has it, \`Bagger[2].Weight\`; tags of a program begin with it, \`Program:Packing.Speed\`. Capital and small letters are the same.
- *Types* are the controller's own: a value of another type is bad, and never converted.`,
  link: LINK,
  device: DEVICE,
  dialect: DIALECT,
  point: NO_SETTINGS,
  dialectGroups: [{ title: 'How it is asked', fields: ['timeoutMs', 'messages', 'messageBytes', 'packing'] }],
  namedDialects: [{ name: 'as the standard has it', settings: {} }],
  address: { forms: TAG_FORMS, pattern: '.+', ignoresCase: true, explains: 'tag {address}' },
  capabilities: { write: true, identify: true, browse: true, observe: false, confirms: { by: 'asking' } },
  targetForm: '{host}:{port}',
  partyForm: 'route {route}',
};

/** Controllers know no difference between small and capital letters. */
const general = describedBy(MANIFEST);

export const cipDescription: DriverDescription = describedBy(MANIFEST, {
  origin: (link, device, dialect, canonical) => general.origin(link, device, dialect, canonical.toLowerCase()),
  notation: {
    forms: TAG_FORMS,
    example: 'Bagger[2].Weight',
    parse(text, type) {
      const path = parseTagPath(text);
      if (!path.ok) return path;
      const fits = fitsPath(path.value, type);
      return fits.ok ? ok({ canonical: formatTagPath(path.value), bit: null, writable: true }) : fits;
    },
    inside: (base, member) => `${base}.${member}`,
    explain: (canonical) => `tag ${canonical}`,
    format: (canonical) => canonical,
  },
  indexed: {
    counts: 'elements of the first array in the address',
    moved(canonical, by) {
      const path = parseTagPath(canonical);
      if (!path.ok) return path;
      const at = path.value.steps.findIndex((step) => typeof step === 'number');
      if (at < 0)
        return fail('index', `${canonical} names no element that an index could move.`, 'Write the first element in brackets: Bagger[0].Weight.');
      const element = Number(path.value.steps[at]) + by;
      return element < 0 || element > 0xffff_ffff
        ? fail('address-range', `${canonical} moved by ${by} would be no element.`, 'Check the index, or bound it in its expression.')
        : ok(formatTagPath({ ...path.value, steps: path.value.steps.with(at, element) }));
    },
  },
  party: (device) => {
    const { route } = deviceOf(device);
    return route.trim() === '' ? '' : `route ${route.replace(/\s/g, '')}`;
  },
  wireInWords: () => 'a typed value, asked for by its name',
  discovers: true,
  dissect: (_link, direction, bytes) => dissectEip(direction, bytes),
  capture: (link) => {
    const { port } = linkOf(link);
    return { encapsulation: { kind: 'tcp', port }, reading: `as EtherNet/IP (enip) on tcp.port==${port}` };
  },
});
