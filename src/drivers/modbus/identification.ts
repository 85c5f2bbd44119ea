/** What a device says of itself: function 43 (Modbus Application Protocol V1.1b3, 6.21), basic objects. */
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import { identificationRequest } from '@/core/modbus/pdu.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { CallContext } from '../contract.ts';
import { askOf, type DeviceAccess } from './readGroup.ts';

export const OBJECT_WORDS: Readonly<Record<number, string>> = { 0: 'maker', 1: 'product', 2: 'revision', 4: 'name', 5: 'model' };

export async function identifyDevice(access: DeviceAccess, context: CallContext): Promise<Result<Readonly<Record<string, string>>>> {
  const answer = await access.channel.transact({ ...askOf(access, identificationRequest(1, 0), context), isUrgent: true });
  if (!answer.ok) return { ok: false, problem: answer.fault.problem };
  if (answer.reply.kind === 'exception')
    return fail('no-identification', `The device does not tell what it is: ${exceptionInWords(answer.reply.code)}.`);
  return ok(Object.fromEntries([...identificationObjects(answer.reply.data)].map(([id, text]) => [OBJECT_WORDS[id] ?? `object ${id}`, text])));
}

/** @param data a reply to function 43 from its conformity level on */
export function identificationObjects(data: Uint8Array): ReadonlyMap<number, string> {
  const found = new Map<number, string>();
  let at = 4;
  for (let i = 0; i < (data[3] ?? 0); i++) {
    const length = data[at + 1] ?? 0;
    found.set(data[at] ?? 0, String.fromCharCode(...data.subarray(at + 2, at + 2 + length)));
    at += 2 + length;
  }
  return found;
}
