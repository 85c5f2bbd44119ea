/** The ways a Modbus device is reached, each a driver of its own: settings, addresses and help. Pure. */
import { fillForm, type DriverManifest } from '@/core/manifest/driverManifest.ts';
import { choiceSetting, NO_SETTINGS, settingsSchema, wholeSetting, type Setting } from '@/core/manifest/settingsSchema.ts';
import { settingsAs } from '@/core/manifest/yupOf.ts';
import { isRegisterArea, type Area } from '@/core/modbus/address.ts';
import { dissect, type FrameForm } from '@/core/modbus/dissect.ts';
import { READ_FUNCTION } from '@/core/modbus/pdu.ts';
import { formatLine, silenceMs, type LineFormat } from '@/core/plan/lineTime.ts';
import type { Span } from '@/core/plan/readPlan.ts';
import { orderLike, orderWidth } from '@/core/value/byteOrder.ts';
import type { DriverDescription, DriverFunctions, ForeseenRequest, PointSpec, Settings } from '../contract.ts';
import { describedBy } from '../describedBy.ts';
import { hostSettings, type HostSettings } from '../networkSettings.ts';
import { indexed } from './indexed.ts';
import { memory } from './memory.ts';
import { signature } from './signature.ts';
import { nearestAddress, waysToWrite } from './waysToWrite.ts';
import { notation, parseCanonical, unitsOf } from './notation.ts';
import { DEVICE, deviceOf, DIALECT, DIALECT_GROUPS, dialectOf, NAMED_DIALECTS, type Dialect } from './settings.ts';
import { memberOf, planGroup, requestMs, roundTripMs, type Member } from './traffic.ts';

export interface LineSettings extends LineFormat {
  readonly form: 'rtu' | 'ascii';
  readonly turnaroundMs: number;
}
export interface SerialLinkSettings extends LineSettings {
  readonly path: string;
  readonly direction: 'adapter' | 'rts';
}
export interface GatewaySettings extends HostSettings, LineSettings {
  /** How long the gateway itself waits for a unit, 0 when nobody knows. */
  readonly gatewayMs: number;
}

const SERIAL = 'modbus-serial';
const GATEWAY = 'modbus-gateway';

const HOST_SETTINGS = hostSettings({ usual: 502, told: '502 by the standard; simulated devices commonly use others.' });

const LINE_SETTINGS = {
  form: choiceSetting(
    { rtu: 'RTU · bytes', ascii: 'ASCII · characters' },
    'Frames',
    'How frames are written on the line; all devices of a line use the same.',
  ),
  speed: wholeSetting('Baud rate', '19200 by the standard; 9600 is met as often.', { min: 300, max: 921_600, default: 19200, 'x-unit': 'bit/s' }),
  dataBits: {
    type: 'integer',
    title: 'Data bits',
    description: '8 for RTU; ASCII may use 7.',
    default: 8,
    oneOf: [
      { const: 8, title: '8' },
      { const: 7, title: '7' },
    ],
  },
  parity: choiceSetting(
    { even: 'even', none: 'none', odd: 'odd' },
    'Parity',
    'Even by the standard; it must be the same in every device of the line.',
  ),
  stopBits: {
    type: 'integer',
    title: 'Stop bits',
    description: '1; 2 by the standard when there is no parity.',
    default: 1,
    oneOf: [
      { const: 1, title: '1' },
      { const: 2, title: '2' },
    ],
  },
  turnaroundMs: wholeSetting('Turnaround delay after a broadcast', 'Nobody answers a write to all units; they need time to carry it out.', {
    min: 10,
    max: 5000,
    default: 100,
    'x-unit': 'ms',
  }),
} as const satisfies Readonly<Record<string, Setting>>;

const HOST_LINK = settingsSchema('A link over the network', HOST_SETTINGS);
const SERIAL_LINK = settingsSchema('A serial link', {
  path: {
    type: 'string',
    title: 'Port',
    description: 'Serial port of this machine; names under by-id stay when adapters are plugged in another order.',
    pattern: '^(?!.*\\.\\.)(\\/dev\\/[\\w.\\/:+@\\-]+|\\/tmp\\/[\\w.\\/:+@\\-]+|COM\\d{1,3}|\\\\\\\\\\.\\\\COM\\d{1,3})$',
    'x-refusal': 'A port is a name such as /dev/ttyUSB0, /dev/serial/by-id/… or COM3.',
    'x-suggestions': 'serialPorts',
  },
  ...LINE_SETTINGS,
  direction: choiceSetting(
    { adapter: 'the adapter', rts: 'we, by its RTS line' },
    'RS-485 is turned around by',
    'Most adapters turn the line around by themselves.',
  ),
});
const GATEWAY_LINK = settingsSchema('A link through a serial gateway', {
  ...HOST_SETTINGS,
  ...LINE_SETTINGS,
  gatewayMs: wholeSetting(
    'Gateway time-out',
    'How long the gateway itself waits for a unit. It must be shorter than the time-out of each device here; 0 when you do not know.',
    { min: 0, max: 60_000, default: 0, 'x-unit': 'ms' },
  ),
});

export const hostOf = settingsAs<HostSettings>(HOST_LINK);
export const serialOf = settingsAs<SerialLinkSettings>(SERIAL_LINK);
export const gatewayOf = settingsAs<GatewaySettings>(GATEWAY_LINK);

function hostTarget({ host, port }: HostSettings): string {
  return host.includes(':') ? `[${host}]:${port}` : `${host}:${port}`;
}

const ADDRESS_HELP = `- *Unit*: the number of the device on its line or behind its gateway (1 to 247). A device of its own on the network mostly takes 255 or 1.
- *Addresses*: \`40018\` as manuals print them, counted from 1 by the standard, or \`HR17\`, counted from 0 as on the wire. Both name the same register.
- *Orders*: a value of two or four registers comes with its high word first (ABCD) or last (CDAB), and some devices swap bytes too. When a value is far off, try the other orders first.`;

type Access = Pick<DriverManifest, 'id' | 'label' | 'summary' | 'link' | 'help'> & Pick<DriverFunctions, 'target' | 'capture' | 'searchesLine'>;

function describe({ id, label, summary, link: linkSchema, help, target, ...more }: Access): DriverDescription {
  const manifest: DriverManifest = {
    id,
    label,
    summary,
    help: `${help}\n${ADDRESS_HELP}`,
    link: linkSchema,
    device: DEVICE,
    dialect: DIALECT,
    point: NO_SETTINGS,
    dialectGroups: DIALECT_GROUPS,
    namedDialects: NAMED_DIALECTS,
    address: { forms: notation.forms, pattern: '.+', ignoresCase: true, explains: '{address}' },
    capabilities: { write: true, identify: true, browse: true, observe: false, confirms: { by: 'asking' } },
    targetForm: '{host}:{port}',
    partyForm: 'unit {unit}',
  };
  return describedBy(manifest, {
    ...more,
    target,
    notation: { ...notation, ways: waysToWrite, nearest: nearestAddress },
    dissect: (link, direction, bytes) => {
      const { summary, unit, fn, fields, isError } = dissect(formOf(id, link), direction, bytes);
      const party = unit === null ? null : fillForm(manifest.partyForm, { unit });
      return {
        summary: party === null ? summary : summary.slice(party.length + 2),
        party,
        service: fn === null ? null : String(fn),
        fields,
        isError,
      };
    },
    foresee: (link, _device, dialect, points) => foresee(lineOf(id, link), dialectOf(dialect), points),
    line: (link) => {
      const line = lineOf(id, link);
      return line && { words: formatLine(line), silenceMs: silenceMs(line.form, line) };
    },
    memory,
    indexed,
    scansNumbers: 'unit',
    numbered: {
      areas: [
        { value: 'holding', words: 'holding registers, coils' },
        { value: 'input', words: 'input registers, inputs' },
      ],
      countsFrom: (dialect) => dialectOf(dialect).countingBase,
    },
    origin: (link, device, dialect, canonical) => [
      id,
      target(link).toLowerCase(),
      String(deviceOf(device).unit),
      canonical,
      ...(dialectOf(dialect).wide === 'one' ? ['four bytes an address'] : []),
    ],
    bytes: {
      signature,
      laysOut: (dialect) => ({ structures: dialectOf(dialect).structures, texts: dialectOf(dialect).textLayout }),
      orderSetting(type) {
        if (type.kind === 'text') return null;
        const width = orderWidth(type);
        return width === 2 || width === 4 || width === 8 ? `order${8 * width}` : null;
      },
      defaultOrder(dialect, type) {
        const d = dialectOf(dialect);
        if (type.kind === 'text') return d.orderText;
        const width = orderWidth(type);
        return width === 8 ? d.order64 : width === 4 ? d.order32 : width === 6 ? orderLike(d.order32, 6) : d.order16;
      },
    },
    wireInWords(canonical, type, dialect) {
      const address = parseCanonical(canonical);
      if (!address) return '';
      const units = unitsOf(address, type, dialectOf(dialect));
      const what = isRegisterArea(address.area) ? (units === 1 ? 'register' : 'registers') : 'bit';
      return `function ${READ_FUNCTION[address.area]}, ${units} ${what}`;
    },
  });
}

export const modbusTcpDescription = describe({
  id: 'modbus-tcp',
  label: 'Modbus TCP',
  summary: 'Controllers, meters, drives and gateways on the network',
  link: HOST_LINK,
  capture: (link) => ({ encapsulation: { kind: 'tcp', port: hostOf(link).port }, reading: `as Modbus/TCP (tcp.port==${hostOf(link).port})` }),
  target: (link) => hostTarget(hostOf(link)),
  help: `**Modbus TCP** reads and writes coils, discrete inputs, input registers and holding registers of a device at a host and port.

- *Host and port*: the device itself, or a gateway that translates to a serial line. Port 502 unless its manual says otherwise.`,
});

export const modbusUdpDescription = describe({
  id: 'modbus-udp',
  label: 'Modbus UDP',
  summary: 'The frames of Modbus TCP in datagrams, for devices that offer it',
  link: HOST_LINK,
  capture: (link) => ({ encapsulation: { kind: 'udp', port: hostOf(link).port }, reading: `as Modbus/UDP (udp.port==${hostOf(link).port})` }),
  target: (link) => `${hostTarget(hostOf(link))}/udp`,
  help: `**Modbus UDP** carries the frames of Modbus TCP in datagrams. A datagram may be lost: a read is then sent again, a write never.

- *Host and port*: the device. A refused port can only be told when the device says so.`,
});

/** Speeds and parities in the order in which they are met (common practice). */
const LINES_MET = [9600, 19200, 38400, 115_200, 57_600, 4800, 2400, 1200].flatMap((speed) => [
  { speed, parity: 'even', stopBits: 1 },
  { speed, parity: 'none', stopBits: 1 },
  { speed, parity: 'odd', stopBits: 1 },
  { speed, parity: 'none', stopBits: 2 },
]);

export const modbusSerialDescription = describe({
  id: SERIAL,
  label: 'Modbus on a serial port',
  summary: 'RTU or ASCII frames on an RS-232 or RS-485 line of this machine',
  link: SERIAL_LINK,
  searchesLine: LINES_MET,
  capture: () => ({ encapsulation: { kind: 'serial' }, reading: 'the user link type 147 (DLT_USER0) as Modbus RTU (mbrtu)' }),
  target: (link) => `${serialOf(link).path} ${formatLine(serialOf(link))}`,
  help: `**Modbus on a serial port** reads and writes devices on an RS-485 or RS-232 line. One device is asked at a time.

- *Port*: the adapter. *Speed*, *parity* and *stop bits* must be those of every device on the line.
- A wrong speed or parity never shows as a wrong value: the device stays silent, or what comes is no frame.
- *Silence between frames*: at least 3.5 characters, rounded up to the next millisecond that this machine can keep.
- After a time-out a unit is first asked for something whose reply has another length, so that a late reply is never taken for another value.`,
});

export const modbusGatewayDescription = describe({
  id: GATEWAY,
  label: 'Modbus through a serial gateway',
  summary: 'RTU or ASCII frames through a TCP connection to a serial server',
  link: GATEWAY_LINK,
  capture: (link) => ({
    encapsulation: { kind: 'tcp', port: gatewayOf(link).port },
    reading: `as Modbus RTU (mbrtu) on tcp.port==${gatewayOf(link).port}`,
  }),
  target: (link) => `${hostTarget(gatewayOf(link))} ${gatewayOf(link).form.toUpperCase()}`,
  help: `**Through a serial gateway** the frames of a serial line travel unchanged over TCP, as serial servers pass them on. A gateway that translates speaks Modbus TCP: use that instead.

- *Speed*, *parity* and *stop bits* are set in the gateway; told here they let the time on the line be foreseen.
- *Gateway time-out*: must be shorter than ours, or its reply to one request comes during the next.
- After a time-out a unit is first asked for something whose reply has another length, so that a late reply is never taken for another value.`,
});

function foresee(line: LineSettings | null, dialect: Dialect, points: readonly PointSpec[]): readonly ForeseenRequest[] {
  const members = points.flatMap((point) => memberOf(point, dialect) ?? []);
  const { requests, torn } = planGroup(members, dialect, line);
  const told = (area: Area, registerBytes: 2 | 4, span: Span, of: readonly Member[]): ForeseenRequest => ({
    area,
    start: span.start,
    count: span.count,
    used: of.map((m) => ({ start: m.start, count: m.count })),
    keys: of.map((m) => m.key),
    lineMs: line && requestMs({ area, count: span.count, registerBytes }, line),
    roundTripMs: line && roundTripMs({ area, count: span.count, registerBytes }, line),
  });
  return [
    ...requests.map((r) => told(r.area, r.registerBytes, r, r.members)),
    ...torn.flatMap(({ member, pieces }) => pieces.map((piece) => told(member.address.area, member.registerBytes, piece, [member]))),
  ];
}

/** The serial line that a link leads over, null for one that is a network all the way. */
export function lineOf(driverId: string, settings: Settings): LineSettings | null {
  if (driverId === SERIAL) return serialOf(settings);
  return driverId === GATEWAY ? gatewayOf(settings) : null;
}

/** How frames of a link are written. */
export function formOf(driverId: string, link: Settings): FrameForm {
  return lineOf(driverId, link)?.form ?? 'tcp';
}
