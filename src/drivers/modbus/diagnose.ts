/**
 * Infers why a device does not answer as it should, from frames and their oddities alone. Patterns that look alike
 * from here are named together, the likeliest first. Which pattern a fault leaves is common practice, except where a
 * clause is cited.
 */
import type { FrameOddity, TestCause } from '../contract.ts';

export interface Evidence {
  readonly medium: 'network' | 'line' | 'gateway';
  readonly unit: number;
  readonly timeoutMs: number;
  /** Requests that were answered, by data or by an exception. */
  readonly answered: number;
  readonly silent: number;
  readonly damaged: number;
  readonly oddities: Readonly<Partial<Record<FrameOddity, number>>>;
  /** How long the latest late reply took, in milliseconds. */
  readonly latestMs: number | null;
  /** Under which other numbers replies came. */
  readonly strangers: readonly number[];
  /** Whether other units of the link answer. */
  readonly othersAnswer: boolean;
  /** What came on a network port is a whole serial frame. */
  readonly isSerialFrame: boolean;
}

export interface Diagnosis {
  readonly meaning: string;
  readonly causes: readonly TestCause[];
}

const CAUSES = {
  unit: { cause: 'The unit number is different', remedy: 'Compare it with the display or the switches of the device, or let Mill Latch find it.' },
  power: { cause: 'The device is off, stopped, or not connected', remedy: 'Check its supply, its plug and its lamps.' },
  speed: { cause: 'Its speed is different', remedy: 'Compare the speed of device, gateway and link.' },
  parity: {
    cause: 'Its parity or stop bits are different',
    remedy: 'Compare parity and stop bits; a device discards what does not fit and stays silent.',
  },
  wiring: { cause: 'The two wires are swapped or open', remedy: 'Swap A and B, check the common wire, measure the line.' },
  form: { cause: 'It speaks ASCII where the link speaks RTU, or the other way round', remedy: 'Compare the kind of frames in device and link.' },
  noise: {
    cause: 'The line is disturbed',
    remedy: 'Check termination at both ends, shield and common wire; keep it away from motor cables; try a lower speed.',
  },
  'two-devices': {
    cause: 'Two devices have this address and speak at once',
    remedy: 'Unplug one device after the other until the replies are whole.',
  },
  cut: {
    cause: 'Replies are cut: the gateway or adapter ends a frame too early',
    remedy: 'Raise the character time-out of the gateway, or its packing size.',
  },
  slow: { cause: 'It answers, later than the time-out', remedy: 'Raise the time-out of the device.' },
  'gateway-late': { cause: 'The gateway waits longer than we do', remedy: 'Set its time-out below ours.' },
  transaction: {
    cause: 'It answers under another transaction number',
    remedy: 'Update its firmware; ask for one request at a time and close other programs on this connection.',
  },
  stranger: { cause: 'It answers under another unit number', remedy: 'Use that number, or let the protocol options take replies of any unit.' },
  service: { cause: 'Another service listens on this port', remedy: 'Compare the port with the manual; 502 is usual.' },
  serial: {
    cause: 'The gateway passes serial frames on without translating',
    remedy: 'Make the link through a serial gateway instead of Modbus TCP.',
  },
  firewall: {
    cause: 'A gateway or firewall took the connection and passes nothing on',
    remedy: 'Check the line behind the gateway and the list of allowed hosts.',
  },
  confused: {
    cause: 'A good frame came that answers something else',
    remedy: 'Look for a second master on the line; one must be the only one to ask.',
  },
} as const satisfies Record<string, Omit<TestCause, 'id'>>;

type CauseId = keyof typeof CAUSES;

/** @returns null when there is nothing to explain */
export function diagnose(seen: Evidence): Diagnosis | null {
  const n = (oddity: FrameOddity): number => seen.oddities[oddity] ?? 0;
  const say = (meaning: string, ...ids: CauseId[]): Diagnosis => ({ meaning, causes: ids.map((id) => ({ id, ...CAUSES[id] })) });
  if (n('protocol') > 0)
    return seen.isSerialFrame
      ? say('What came is a whole frame of a serial line.', 'serial')
      : say('What came is not Modbus TCP.', 'service', 'serial');
  if (n('stranger') > 0)
    return say(
      `Replies came under ${seen.strangers.length === 1 ? 'number' : 'numbers'} ${seen.strangers.join(', ')} when unit ${seen.unit} was asked.`,
      'stranger',
    );
  if (n('late') > 0) {
    const after = seen.latestMs === null ? '' : ` after ${Math.round(seen.latestMs)} ms`;
    const meaning = `A reply came${after}, when its request had been given up at ${seen.timeoutMs} ms.`;
    return seen.medium === 'gateway' ? say(meaning, 'slow', 'gateway-late') : say(meaning, 'slow');
  }
  if (n('unasked') > 0 && seen.medium === 'network') return say('A reply came whose transaction number belongs to no request.', 'transaction');
  if (n('short') > 0 && n('checksum') === 0) return say('Replies begin well and end too early.', 'cut', 'noise');
  if (n('checksum') > 0)
    return seen.answered > 0
      ? say(
          'Some replies are whole and some are damaged. A disturbed line and two devices with one address look alike here; unplugging one tells.',
          'noise',
          'two-devices',
        )
      : say(
          'Every reply comes damaged. Two devices that speak at once and a disturbed line look alike here; unplugging one tells.',
          'two-devices',
          'noise',
        );
  if (n('noise') > 0)
    return seen.answered > 0
      ? say('Stray bytes come beside good replies.', 'noise')
      : say(
          'Something comes, and none of it is a frame. Wrong speed, wrong parity and swapped wires look alike here.',
          'speed',
          'parity',
          'wiring',
          'form',
        );
  if (n('unfit') > 0) return say('Good frames came that do not answer what was asked.', 'confused');
  if (seen.silent === 0) return null;
  if (seen.medium === 'network') {
    if (seen.othersAnswer) return say('Modbus is spoken here, and this unit does not answer.', 'unit', 'power');
    return say('The connection stands, and nothing comes back. These look alike from here.', 'firewall', 'unit', 'service', 'serial');
  }
  if (seen.answered > 0) return say('Some requests are answered and some are not.', 'noise', 'slow');
  return seen.othersAnswer
    ? say(
        'The line works, others answer; this unit is silent. These look alike, since a device discards what it cannot read.',
        'unit',
        'power',
        'speed',
        'parity',
      )
    : say(
        'Nothing at all comes back. These look alike from here, since a device discards what it cannot read.',
        'speed',
        'parity',
        'wiring',
        'unit',
        'power',
      );
}
