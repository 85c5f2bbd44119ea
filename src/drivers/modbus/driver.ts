/** The Modbus drivers: one for each way to reach devices, with the same devices behind all of them. */
import { filledIn, yupOf } from '@/core/manifest/yupOf.ts';
import { ValidationError } from 'yup';
import { silenceMs, characterMs } from '@/core/plan/lineTime.ts';
import { atOnce } from '@/core/inSlices.ts';
import { readRequest } from '@/core/modbus/pdu.ts';
import type { ProbeReading } from '@/core/find/knownValue.ts';
import type { Problem, Result } from '@/core/result.ts';
import type {
  BrowsedNode,
  CallContext,
  DeviceSession,
  Driver,
  DriverDescription,
  DriverFault,
  DriverSession,
  FrameEvent,
  LinkState,
  PointSpec,
  ReadGroup,
  ScannedNumber,
  SessionOptions,
  Settings,
  TestStage,
  WriteValue,
} from '../contract.ts';
import type { ModbusChannel } from './channel.ts';
import {
  gatewayOf,
  hostOf,
  lineOf,
  modbusGatewayDescription,
  modbusSerialDescription,
  modbusTcpDescription,
  modbusUdpDescription,
  serialOf,
  type LineSettings,
} from './describe.ts';
import { LineChannel, type LineOptions } from './lineChannel.ts';
import { MbapChannel } from './mbapChannel.ts';
import { askOf, exceptionFault, ModbusReadGroup, type DeviceAccess } from './readGroup.ts';
import { scanUnits, sight } from './finding.ts';
import { browseFile } from './browsing.ts';
import { identifyDevice } from './identification.ts';
import { lacksSerialPorts } from '../serialLibrary.ts';
import { serialPipe } from './serialPipe.ts';
import { deviceOf, dialectOf } from './settings.ts';
import { tcpPipe, udpPipe } from '../transport/tcpPipe.ts';
import { testConnection } from './testConnection.ts';
import { writeValue } from './writing.ts';

type Wires = Pick<SessionOptions, 'clock' | 'onFrame' | 'onState'>;
type OpenChannel = (settings: Settings, wires: Wires) => ModbusChannel;

export const modbusTcp = modbusDriver(modbusTcpDescription, (settings, wires) => {
  const host = hostOf(settings);
  return new MbapChannel({ ...wires, where: `${host.host}:${host.port}`, open: tcpPipe(host), isDatagrams: false });
});

export const modbusUdp = modbusDriver(modbusUdpDescription, (settings, wires) => {
  const host = hostOf(settings);
  return new MbapChannel({ ...wires, where: `${host.host}:${host.port}`, open: udpPipe(host), isDatagrams: true });
});

const serialDriver = modbusDriver(modbusSerialDescription, (settings, wires) => {
  const serial = serialOf(settings);
  return new LineChannel({ ...wires, where: serial.path, open: serialPipe(serial), ...lineTimes(serial), characterMs: characterMs(serial) });
});

export const modbusSerial: Driver = { ...serialDriver, lacks: lacksSerialPorts };

export const modbusGateway = modbusDriver(modbusGatewayDescription, (settings, wires) => {
  const gateway = gatewayOf(settings);
  // The gateway keeps the silences of its line itself.
  return new LineChannel({
    ...wires,
    where: `${gateway.host}:${gateway.port}`,
    open: tcpPipe(gateway),
    ...lineTimes(gateway),
    silenceMs: 0,
    characterMs: 0,
  });
});

function lineTimes(line: LineSettings): Pick<LineOptions, 'form' | 'silenceMs' | 'turnaroundMs'> {
  return { form: line.form, silenceMs: silenceMs(line.form, line), turnaroundMs: line.turnaroundMs };
}

/** @param open how a session gets to what carries its requests */
export function modbusDriver(description: DriverDescription, open: OpenChannel): Driver {
  return { description, createSession: (options) => new ModbusSession(description, open, options) };
}

class ModbusSession implements DriverSession {
  readonly #description: DriverDescription;
  readonly #options: SessionOptions;
  readonly #channel: ModbusChannel;
  readonly #waiters = new Set<(state: LinkState) => void>();
  readonly #taps = new Set<(frame: FrameEvent) => void>();

  constructor(description: DriverDescription, open: OpenChannel, options: SessionOptions) {
    this.#description = description;
    this.#options = options;
    this.#channel = open(options.settings, {
      clock: options.clock,
      onFrame: (frame) => {
        options.onFrame(frame);
        for (const tap of this.#taps) tap(frame);
      },
      onState: (state) => {
        options.onState(state);
        for (const waiter of [...this.#waiters]) waiter(state);
      },
    });
  }

  get state(): LinkState {
    return this.#channel.state;
  }

  start(): void {
    this.#channel.start();
  }

  close(): void {
    this.#channel.close();
  }

  device(settings: Settings, dialect: Settings): DeviceSession {
    const access: DeviceAccess = {
      channel: this.#channel,
      where: this.#description.target(this.#options.settings),
      unit: deviceOf(settings).unit,
      mayBroadcast: deviceOf(settings).broadcast === 'allowed',
      dialect: dialectOf(dialect),
      line: lineOf(this.#description.id, this.#options.settings),
      now: () => this.#options.clock.now(),
    };
    return new ModbusDevice(access, (points, context) =>
      testConnection(
        {
          ...access,
          description: this.#description,
          link: this.#options.settings,
          settingsProblem: settingsProblem(this.#description, this.#options.settings),
          connected: () => this.#connected(),
          tap: (listener) => {
            this.#taps.add(listener);
            return () => void this.#taps.delete(listener);
          },
        },
        points,
        context,
      ),
    );
  }

  scan(units: readonly number[], timeoutMs: number, context: CallContext): AsyncIterable<ScannedNumber> {
    return scanUnits(this.#channel, units, timeoutMs, context, () => this.#options.clock.now());
  }

  /** Resolves when the running attempt to connect has ended: null, or why it failed. */
  #connected(): Promise<Problem | null> {
    const verdict = (state: LinkState): Problem | null | undefined =>
      state.phase === 'connected'
        ? null
        : // A connection that is made anew because nothing answered says nothing against the host.
          state.phase === 'connecting' || (state.phase === 'waiting' && state.problem?.code === 'silent')
          ? undefined
          : (state.problem ?? { code: 'closed', message: 'The link is closed.' });
    const now = verdict(this.state);
    if (now !== undefined) return Promise.resolve(now);
    return new Promise((resolve) => {
      const waiter = (state: LinkState): void => {
        const ended = verdict(state);
        if (ended === undefined) return;
        this.#waiters.delete(waiter);
        resolve(ended);
      };
      this.#waiters.add(waiter);
    });
  }
}

class ModbusDevice implements DeviceSession {
  readonly #access: DeviceAccess;
  readonly #test: (points: readonly PointSpec[], context: CallContext) => AsyncIterable<TestStage>;

  constructor(access: DeviceAccess, test: (points: readonly PointSpec[], context: CallContext) => AsyncIterable<TestStage>) {
    this.#access = access;
    this.#test = test;
  }

  prepare(points: readonly PointSpec[]): ReadGroup {
    return atOnce(this.preparing(points));
  }
  preparing(points: readonly PointSpec[]): Generator<void, ReadGroup> {
    return ModbusReadGroup.made(this.#access, points);
  }

  write(point: PointSpec, value: WriteValue, context: CallContext): Promise<DriverFault | null> {
    return writeValue(this.#access, point, value, context);
  }

  sight(reference: string, context: CallContext): Promise<Result<readonly ProbeReading[]>> {
    return sight(this.#access, reference, context);
  }

  browse(_path: string, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    return browseFile(this.#access, context);
  }

  /** A refusal is an answer too; a gateway that speaks for a missing unit is none. */
  async isThere(context: CallContext): Promise<DriverFault | null> {
    const answer = await this.#access.channel.transact(askOf(this.#access, readRequest('HR', 0, 1), context));
    if (!answer.ok) return answer.fault;
    const fault = answer.reply.kind === 'exception' ? exceptionFault(answer.reply.code, this.#access.unit) : null;
    return fault?.kind === 'silent' ? fault : null;
  }

  identify(context: CallContext): Promise<Result<Readonly<Record<string, string>>>> {
    return identifyDevice(this.#access, context);
  }

  test(points: readonly PointSpec[], context: CallContext): AsyncIterable<TestStage> {
    return this.#test(points, context);
  }
}

function settingsProblem(description: DriverDescription, settings: Settings): Problem | null {
  try {
    yupOf(description.link).validateSync(filledIn(description.link, settings), { strict: true });
    return null;
  } catch (error) {
    if (error instanceof ValidationError) return { code: 'settings', message: error.message, place: error.path ?? '' };
    throw error;
  }
}
