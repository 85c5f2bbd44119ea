/** Writes one value in the way its device takes it. */
import { isRegisterArea } from '@/core/modbus/address.ts';
import {
  maskWriteRequest,
  readRequest,
  writeCoilRequest,
  writeCoilsRequest,
  writeRegisterRequest,
  writeRegistersRequest,
} from '@/core/modbus/pdu.ts';
import type { CallContext, DriverFault, PointSpec, WriteValue } from '../contract.ts';
import type { Ask } from './channel.ts';
import { parseCanonical, registerBytesOf } from './notation.ts';
import { askOf, exceptionFault, type DeviceAccess } from './readGroup.ts';
import { RegisterChanges } from './registerChanges.ts';

/** Of all links of this process. */
const CHANGES = new RegisterChanges();

/** Sends once and never repeats. Null when the device confirmed. */
export async function writeValue(access: DeviceAccess, point: PointSpec, value: WriteValue, context: CallContext): Promise<DriverFault | null> {
  const address = parseCanonical(point.canonical);
  if (!address) return refuse(`“${point.canonical}” is not a Modbus address.`, 'Check the address of the tag.');
  const { dialect } = access;
  if (access.unit === 0 && access.line && !access.mayBroadcast)
    return refuse('Unit 0 is every device of this line at once.', 'Allow writes to all units in the settings of the device, if that is meant.');
  const { offset } = address;
  const ask = (pdu: Uint8Array, over: Partial<Ask> = {}): Ask => ({ ...askOf(access, pdu, context), ...over });
  if (address.area === 'CO') {
    const on = value.raw === true;
    return send(access, ask(dialect.singleWrites === 'single' ? writeCoilRequest(offset, on) : writeCoilsRequest(offset, [on])));
  }
  if (!isRegisterArea(address.area) || address.area === 'IR') return refuse('Inputs can only be read.', 'Write to a holding register or a coil.');
  const party = `${access.where} ${access.unit}`;
  if (value.mask) return CHANGES.run(party, offset, 1, () => writeBit(access, offset, value, ask));
  const registers = value.bytes.length >> 1;
  if (registers > dialect.maxWritten)
    return refuse(
      `${registers} registers do not fit in one write to this device (${dialect.maxWritten}).`,
      'Use a shorter text, or raise the limit of the device.',
    );
  const registerBytes = registerBytesOf(point.type, dialect);
  const isSingle = registers === 1 && dialect.singleWrites === 'single';
  const request = isSingle ? writeRegisterRequest(offset, value.bytes) : writeRegistersRequest(offset, value.bytes, registerBytes);
  return CHANGES.run(party, offset, registers, () => send(access, ask(request, { registerBytes })));
}

async function writeBit(
  access: DeviceAccess,
  offset: number,
  { bytes, mask }: WriteValue,
  ask: (pdu: Uint8Array) => Ask,
): Promise<DriverFault | null> {
  const { bitWrites, singleWrites } = access.dialect;
  if (bitWrites === 'refuse' || !mask)
    return refuse(
      'Bits of a register cannot be written alone in this device.',
      'Allow it in the protocol options of the device, or let the controller offer it as a coil.',
    );
  const [ours, wanted] = [word(mask), word(bytes)];
  if (bitWrites === 'mask') return send(access, ask(maskWriteRequest(offset, ~ours & 0xffff, wanted)));
  const held = await access.channel.transact({ ...ask(readRequest('HR', offset, 1)), isUrgent: true });
  if (!held.ok) return held.fault;
  if (held.reply.kind === 'exception') return exceptionFault(held.reply.code, access.unit);
  const changed = (word(held.reply.data) & ~ours) | wanted;
  const register = Uint8Array.of(changed >> 8, changed & 0xff);
  return send(access, ask(singleWrites === 'single' ? writeRegisterRequest(offset, register) : writeRegistersRequest(offset, register)));
}

async function send({ channel, unit }: DeviceAccess, ask: Ask): Promise<DriverFault | null> {
  const answer = await channel.transact(ask);
  if (answer.ok) return answer.reply.kind === 'exception' ? exceptionFault(answer.reply.code, unit) : null;
  if (!answer.sent) return answer.fault;
  return {
    kind: 'unknown',
    problem: {
      code: 'write-unknown',
      message: `Unknown whether it was done: ${answer.fault.problem.message}`,
      remedy: 'Look at the controller, or at the value read back, before trying again.',
    },
  };
}

function refuse(message: string, remedy: string): DriverFault {
  return { kind: 'settings', problem: { code: 'not-writable', message, remedy } };
}

function word(bytes: Uint8Array): number {
  return ((bytes[0] ?? 0) << 8) | (bytes[1] ?? 0);
}
