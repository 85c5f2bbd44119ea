/**
 * The tags that a device lists itself: Modbus has no such service, but a program may keep its list as a file of records
 * (function 20; Modbus Application Protocol V1.1b3, 6.14). The file holds a list in Mill Latch's JSON, ended by a NUL.
 */
import { exceptionInWords } from '@/core/modbus/exceptions.ts';
import { fileRecordRequest } from '@/core/modbus/pdu.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseOwnJson } from '@/core/taglist/ownJson.ts';
import type { BrowsedNode, CallContext } from '../contract.ts';
import { askOf, type DeviceAccess } from './readGroup.ts';

/** Records of one request: the most that a reply holds. */
const RECORDS = 124;
/** Record numbers end at 9999 (6.14). */
const LAST_RECORD = 9999;
const ILLEGAL_ADDRESS = 2;

export async function browseFile(access: DeviceAccess, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
  const file = access.dialect.listFile;
  if (file === 0)
    return fail(
      'no-list',
      'No file with the tag list of this device is named.',
      'Name it in the protocol options of the device, or import the list from a file.',
    );
  const text = await readFile(access, file, context);
  if (!text.ok) return text;
  const list = parseOwnJson(text.value);
  if (!list.ok) return fail(list.problem.code, `What the device keeps in file ${file} is no tag list: ${list.problem.message}`, list.problem.remedy);
  return ok(
    list.value.rows.map(({ cells: { name = '', address = '', type = '', ...told } }) => ({
      path: name,
      canonical: address,
      type: type || null,
      hasChildren: false,
      told,
    })),
  );
}

/** Reads to the first NUL, or to the end of the file, which answers with exception 2. */
async function readFile(access: DeviceAccess, file: number, context: CallContext): Promise<Result<string>> {
  const parts: Uint8Array[] = [];
  let count = RECORDS;
  for (let record = 0; record <= LAST_RECORD;) {
    const answer = await access.channel.transact({ ...askOf(access, fileRecordRequest(file, record, count), context), isUrgent: true });
    if (!answer.ok) return { ok: false, problem: answer.fault.problem };
    if (answer.reply.kind === 'exception') {
      const isPastEnd = answer.reply.code === ILLEGAL_ADDRESS;
      // The end of the file lies within what was asked for: less is asked for, down to a single record.
      if (isPastEnd && count > 1) count >>= 1;
      else if (isPastEnd && parts.length > 0) break;
      else
        return fail(
          'no-list',
          `The device does not give file ${file}: ${exceptionInWords(answer.reply.code)}.`,
          'Check the number of the file in its dialect.',
        );
      continue;
    }
    const end = answer.reply.data.indexOf(0);
    parts.push(end < 0 ? answer.reply.data.slice() : answer.reply.data.slice(0, end));
    if (end >= 0) break;
    record += count;
  }
  return ok(new TextDecoder().decode(Buffer.concat(parts)));
}
