/** Writing to named tags, one and several at once, against a hand-written controller that shares no code with the driver. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { closeSessions, connectedTo, frames, read, write, writeAll } from '../support/cipSession.ts';
import { startController, type RunningController } from '../support/cipController.ts';

let pack: RunningController;

beforeAll(async () => {
  pack = await startController();
});
afterEach(closeSessions);
afterAll(() => pack.stop());

const connected = (settings = {}, dialect = {}, to = pack) => connectedTo(to, settings, dialect);

describe('writes', () => {
  test('go out once, as the type that the controller declares, and are there', async () => {
    const device = await connected();
    expect(await write(device, 'Line_SpeedSP', 'REAL', 14.25)).toBeNull();
    expect(await write(device, 'Program:Packing.Bags_Wanted', 'DINT', -5)).toBeNull();
    expect(await write(device, 'Program:Packing.Pallet.Codes[3]', 'WORD', 0xfffe)).toBeNull();
    expect(await write(device, 'Program:Packing.Pallet.Layer', 'SINT', -7)).toBeNull();
    expect(await write(device, 'Shift_Name', 'STRING(82)', 'Späte Schicht')).toBeNull();
    expect(await write(device, 'Bags_Total', 'LINT', -9_007_199_254_740_993n)).toBeNull();
    expect(
      await read(
        device,
        ['Line_SpeedSP', 'REAL'],
        ['Program:Packing.Bags_Wanted', 'DINT'],
        ['Program:Packing.Pallet.Codes[3]', 'INT'],
        ['Program:Packing.Pallet.Layer', 'SINT'],
        ['Shift_Name', 'STRING(82)'],
        ['Bags_Total', 'LINT'],
      ),
    ).toEqual(['14.25', '-5', '-2', '-7', 'Späte Schicht', '-9007199254740993']);
    pack.controller.takeOut();
    expect(pack.pack.beltSetPoint).toBe(14.25);
  });

  test('of one bit leave its neighbours alone, whatever the controller does with them', async () => {
    const device = await connected();
    await read(device, ['Status', 'DINT']);
    expect(await write(device, 'Status.9', 'BOOL', true)).toBeNull();
    pack.pack.filmLeft = 1;
    pack.controller.putIn();
    expect(await write(device, 'Status.31', 'BOOL', true)).toBeNull();
    expect(await write(device, 'Status.9', 'BOOL', false)).toBeNull();
    expect(await read(device, ['Status', 'DINT'])).toEqual([String((7 | (1 << 31)) >> 0)]);
    expect(await write(device, 'Alarms[40]', 'BOOL', true)).toBeNull();
    expect(await read(device, ['Alarms[37]', 'BOOL'], ['Alarms[40]', 'BOOL'], ['Alarms[39]', 'BOOL'])).toEqual(['on', 'on', 'off']);
    expect(await write(device, 'Bagger[1].Running', 'BOOL', false)).toBeNull();
    expect(await read(device, ['Bagger[1].Running', 'BOOL'], ['Bagger[1].Fault', 'BOOL'])).toEqual(['off', 'off']);
    pack.pack.filmLeft = 71;
  });

  test('that cannot be held are refused before anything is sent', async () => {
    const device = await connected();
    const before = pack.cip.writes;
    const codes = [
      await write(device, 'Film_Left', 'DINT', 5),
      await write(device, 'Film_Left.16', 'BOOL', true),
      await write(device, 'Bagger[0].Recipe', 'STRING(82)', 'x'.repeat(41)),
      await write(device, 'Shift_Name', 'STRING(82)', 'Ночь'),
      await write(device, 'Program:Packing.Pallet.Layer', 'SINT', 200),
      await write(device, 'Nobody', 'DINT', 1),
    ].map((fault) => fault?.problem.code);
    expect(codes).toEqual(['unfit-value', 'unfit-value', 'out-of-type', 'character', 'out-of-type', 'cip-04']);
    expect(pack.cip.writes).toBe(before);
  });

  test('that nobody answers are never sent again, and nobody knows what became of them', async () => {
    const other = await startController();
    const device = await connected({}, { timeoutMs: 120 }, other);
    expect(await read(device, ['Line_SpeedSP', 'REAL'])).toEqual(['12.5']);
    other.cip.traits.delayMs = 400;
    const fault = await write(device, 'Line_SpeedSP', 'REAL', 11);
    expect(fault?.kind).toBe('unknown');
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(other.cip.writes).toBe(1);
    expect(frames.some((f) => f.oddity === 'late')).toBe(true);
    await other.stop();
  });
});

describe('several writes at once', () => {
  const requests = (): number => frames.filter((frame) => frame.direction === 'sent').length;

  test('go in one message, in their order; one that is refused keeps nothing else back, and one that does not fit is never sent', async () => {
    const device = await connected();
    await read(device, ['Line_SpeedSP', 'REAL'], ['Film_Left', 'INT'], ['Status', 'DINT'], ['Shift_Name', 'STRING(82)']);
    const [before, sent] = [pack.cip.writes, requests()];
    const done = await writeAll(
      device,
      ['Line_SpeedSP', 'REAL', 9.5],
      ['Film_Left', 'DINT', 5],
      ['Nobody', 'DINT', 1],
      ['Status.12', 'BOOL', true],
      ['Shift_Name', 'STRING(82)', 'Nacht'],
      ['Line_SpeedSP', 'REAL', 10.25],
    );
    expect(done).toEqual(['done', 'settings: unfit-value', 'refused: cip-04', 'done', 'done', 'done']);
    // One to learn of the tag that nobody has, one for all that is written.
    expect(requests() - sent).toBe(2);
    expect(pack.cip.writes - before).toBe(4);
    expect(await read(device, ['Line_SpeedSP', 'REAL'], ['Status.12', 'BOOL'], ['Shift_Name', 'STRING(82)'])).toEqual(['10.25', 'on', 'Nacht']);
  });

  test('to elements that were asked for together go out with the type that each of them has', async () => {
    const device = await connected();
    const elements = [4, 5, 6, 7].map((i): [string, string, number] => [`Program:Packing.Pallet.Codes[${i}]`, 'WORD', 0xff00 + i]);
    expect(await writeAll(device, ...elements)).toEqual(['done', 'done', 'done', 'done']);
    expect(await read(device, ['Program:Packing.Pallet.Codes[4]', 'INT'], ['Program:Packing.Pallet.Codes[7]', 'INT'])).toEqual(['-252', '-249']);
  });

  test('a tag that went meanwhile is told by its own refusal inside the message', async () => {
    const other = await startController();
    const device = await connected({}, {}, other);
    await read(device, ['Line_SpeedSP', 'REAL'], ['Film_Left', 'INT']);
    const film = other.controller.memory.find('', 'Film_Left');
    if (film) other.controller.memory.rename(film, 'Film_Rest');
    expect(await writeAll(device, ['Line_SpeedSP', 'REAL', 8], ['Film_Left', 'INT', 5], ['Status.9', 'BOOL', true])).toEqual([
      'done',
      'refused: cip-04',
      'done',
    ]);
    await other.stop();
  });

  test.each([
    ['more than a message takes go in the next one', { messageBytes: 200 }, {}],
    ['a controller that takes one service at a time gets them so', {}, { takesPackets: false }],
    ['a device that is set to take one at a time gets them so', { packing: false }, {}],
  ])('%s', async (_what, dialect, traits) => {
    const other = await startController(traits);
    const device = await connected({}, dialect, other);
    const many = Array.from({ length: 24 }, (_, i): [string, string, number] => [`Program:Packing.Pallet.Codes[${i % 8}]`, 'INT', 100 + i]);
    expect(new Set(await writeAll(device, ...many))).toEqual(new Set(['done']));
    expect(other.cip.writes).toBe(24);
    expect(await read(device, ['Program:Packing.Pallet.Codes[0]', 'INT'], ['Program:Packing.Pallet.Codes[7]', 'INT'])).toEqual(['116', '123']);
    await other.stop();
  });

  test('without an answer nobody knows of those that went, and what comes after is not sent', async () => {
    const other = await startController();
    const device = await connected({}, { timeoutMs: 120, messageBytes: 200 }, other);
    await read(device, ['Program:Packing.Pallet.Codes[0]', 'INT']);
    const many = Array.from({ length: 8 }, (_, i): [string, string, number] => [`Program:Packing.Pallet.Codes[${i}]`, 'INT', 100 + i]);
    await writeAll(device, ...many);
    const before = other.cip.writes;
    other.cip.traits.delayMs = 400;
    const told = await writeAll(device, ...many);
    const went = told.filter((one) => one.startsWith('unknown')).length;
    expect(told).toEqual([...Array<string>(went).fill('unknown: timeout'), ...Array<string>(8 - went).fill('aborted: not-sent')]);
    expect(went).toBeGreaterThan(0);
    expect(went).toBeLessThan(8);
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(other.cip.writes - before).toBe(went);
    await other.stop();
  });
});
