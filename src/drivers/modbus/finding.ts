/** Searches that only read: which units answer, and where a value that is known stands. */
import { isRegisterArea, type Area } from '@/core/modbus/address.ts';
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import { identificationRequest, READ_FUNCTION, readRequest } from '@/core/modbus/pdu.ts';
import type { ProbeReading } from '@/core/find/knownValue.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { CallContext, ScannedNumber } from '../contract.ts';
import type { Answer, ModbusChannel } from './channel.ts';
import { askOf, type DeviceAccess } from './readGroup.ts';
import { identificationObjects } from './identification.ts';

/** Registers read from each place where the value may begin; fewer where the device has no more. */
const LENGTHS = [4, 2, 1];
const BACK_MS = 5000;

export async function* scanUnits(
  channel: ModbusChannel,
  units: readonly number[],
  timeoutMs: number,
  context: CallContext,
  now: () => number,
): AsyncIterable<ScannedNumber> {
  const { deadline, signal } = context;
  for (const unit of units) {
    if (signal.aborted) return;
    const begun = now();
    const ask = (pdu: Uint8Array): Promise<Answer> =>
      channel.transact({ unit, pdu, timeoutMs, depth: 1, pauseMs: 0, registerBytes: 2, strictUnit: true, deadline, signal, isUrgent: true });
    let answer = await ask(readRequest('HR', 0, 1));
    if (!answer.ok && answer.fault.kind === 'link-down' && (await isBack(channel, signal))) answer = await ask(readRequest('HR', 0, 1));
    const ms = now() - begun;
    if (!answer.ok) {
      if (answer.fault.kind === 'aborted') return;
      const isDamaged = answer.fault.kind === 'malformed';
      yield { number: unit, answer: isDamaged ? 'damaged' : 'silent', ms, seen: answer.fault.problem.message };
      continue;
    }
    if (answer.reply.kind === 'exception' && (answer.reply.code === 0x0a || answer.reply.code === 0x0b)) {
      yield { number: unit, answer: 'silent', ms, seen: exceptionInWords(answer.reply.code) };
      continue;
    }
    const who = await ask(identificationRequest(1, 0));
    const name = who.ok && who.reply.kind === 'data' ? [...identificationObjects(who.reply.data).values()].filter(Boolean).join(', ') : '';
    yield { number: unit, answer: answer.reply.kind === 'data' ? 'value' : 'refusal', ms, seen: name };
  }
}

/** Waits for a connection that is made anew, for at most some seconds. */
async function isBack(channel: ModbusChannel, signal: AbortSignal): Promise<boolean> {
  for (let waited = 0; waited < BACK_MS && !signal.aborted; waited += 50) {
    if (channel.state.phase === 'connected') return true;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  return channel.state.phase === 'connected';
}

/**
 * Reads where a reference may lead: counted from 1 and from 0, as holding and as input register.
 * @param reference as a manual prints it: `40001`, `400001`, `30009`, or only the number `1`
 */
export async function sight(access: DeviceAccess, reference: string, context: CallContext): Promise<Result<readonly ProbeReading[]>> {
  const text = reference.trim();
  const number = /^[34](\d{4,5})$/.exec(text)?.[1] ?? /^(?:HR|IR)?(\d{1,5})$/i.exec(text)?.[1];
  if (number === undefined)
    return fail(
      'address-form',
      `“${text.slice(0, 40)}” names no register.`,
      'Write it as the manual does: 40001, 30009, or only the number.',
      'reference',
    );
  const isArea = /^(HR|IR)/i.test(text);
  const found: ProbeReading[] = [];
  for (const area of ['HR', 'IR'] as const satisfies readonly Area[])
    for (const base of isArea ? ([0] as const) : ([1, 0] as const)) {
      const start = Number(number) - base;
      if (start < 0 || start > 65_535 || !isRegisterArea(area)) continue;
      const read = await readFrom(access, area, start, context);
      if (read === 'silent') return fail('silent', `Unit ${access.unit} does not answer.`, 'Test the connection first.');
      if (read === null) continue;
      const words = `function ${READ_FUNCTION[area]}${isArea ? '' : `, counted from ${base}`}`;
      found.push({ canonical: `${area}${start}`, settings: isArea ? {} : { countingBase: base }, words, bytes: read });
    }
  if (found.length === 0)
    return fail('nothing-there', 'The device has nothing at that number, in any way to count.', 'Compare the number with its list.', 'reference');
  return ok(found);
}

async function readFrom(access: DeviceAccess, area: Area, start: number, context: CallContext): Promise<Uint8Array | 'silent' | null> {
  for (const count of LENGTHS) {
    if (start + count > 65_536) continue;
    const answer = await access.channel.transact({ ...askOf(access, readRequest(area, start, count), context), isUrgent: true });
    if (!answer.ok) return 'silent';
    if (answer.reply.kind === 'data') return new Uint8Array(answer.reply.data);
  }
  return null;
}
