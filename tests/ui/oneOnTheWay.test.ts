import { describe, expect, test } from '@jest/globals';
import { OneOnTheWay } from '@/ui/panels/oneOnTheWay.ts';

/** Presses whose answers come when they are told to. */
function slowController() {
  const sent: number[] = [];
  const answers: ((taken: boolean) => void)[] = [];
  const quiet: number[] = [];
  const way = new OneOnTheWay(() => quiet.push(sent.length));
  const want = (value: number): void =>
    way.want(() => {
      sent.push(value);
      return new Promise((answer) => answers.push(answer));
    });
  const answer = async (at: number, taken = true): Promise<void> => {
    answers[at]?.(taken);
    await new Promise((done) => setImmediate(done));
  };
  return { way, sent, quiet, want, answer };
}

describe('a slider that is moved faster than the controller answers', () => {
  test('never has two writes on the way, and the last that was wanted is the last that is written', async () => {
    const { sent, quiet, want, answer } = slowController();
    [10, 20, 30, 40, 50].forEach(want);
    expect(sent).toEqual([10]);
    await answer(0);
    expect(sent).toEqual([10, 50]);
    expect(quiet).toEqual([]);
    await answer(1);
    expect(sent).toEqual([10, 50]);
    expect(quiet).toEqual([2]);
  });

  test('what waited behind a write that was refused is not sent, and the next wish is', async () => {
    const { sent, quiet, want, answer } = slowController();
    [10, 20].forEach(want);
    await answer(0, false);
    expect(sent).toEqual([10]);
    expect(quiet).toEqual([1]);
    want(30);
    expect(sent).toEqual([10, 30]);
  });

  test('what waits while its page closes is not sent', async () => {
    const { way, sent, want, answer } = slowController();
    [10, 20].forEach(want);
    way.drop();
    await answer(0);
    expect(sent).toEqual([10]);
  });
});
