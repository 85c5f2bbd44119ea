/** Who may send to a panel host, and what somebody who listens, repeats or guesses can do. OWASP ASVS 4.0.3, 2.7 (codes out of band). */
import { afterEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { agree, newPairKeys, sameProof, seal, unseal } from '@/services/hosting/sealing.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { openHost, type HostHere } from '../support/hostHere.ts';
import { newFolder } from '../support/server.ts';

let open: HostHere | null = null;
const folders: (() => void)[] = [];
afterEach(async () => {
  await open?.close();
  open = null;
  for (const remove of folders.splice(0)) remove();
});
async function host(clock?: FakeClock): Promise<HostHere> {
  const { folder, remove } = newFolder();
  folders.push(remove);
  open = await openHost(folder, clock ? { clock } : {});
  return open;
}

/** Proves with a code, as a bench does. */
async function proveWith({ host: at }: HostHere, code: string) {
  const own = newPairKeys();
  const begun = await at.pairing.begin('bench', own.publicKey);
  if (!begun.ok) return begun;
  const agreed = await agree(own, begun.value.key, code, 'bench');
  return at.prove(begun.value.pairing, agreed?.benchProof ?? '');
}
const another = (code: string): string => String((Number(code) + 1) % 100_000_000).padStart(8, '0');

describe('the agreement', () => {
  test('both sides come to one key with one code, and to different proofs with different codes', async () => {
    const [bench, at] = [newPairKeys(), newPairKeys()];
    const [a, b, wrong] = await Promise.all([
      agree(bench, at.publicKey, '12345678', 'bench'),
      agree(at, bench.publicKey, '12345678', 'host'),
      agree(bench, at.publicKey, '12345679', 'bench'),
    ]);
    expect(a?.key.equals(b?.key ?? Buffer.alloc(0))).toBe(true);
    expect([a?.benchProof, a?.hostProof]).toEqual([b?.benchProof, b?.hostProof]);
    expect(sameProof(wrong?.benchProof ?? '', a?.benchProof ?? '')).toBe(false);
    // What one side shows is of no use to who wants to pass for the other.
    expect(a?.benchProof).not.toBe(a?.hostProof);
  });

  test('a key that is none is refused: another length, and points that lead to a secret everybody knows (RFC 7748, 6.1: all zeros)', async () => {
    const own = newPairKeys();
    expect(await agree(own, Buffer.alloc(31).toString('base64'), '12345678', 'host')).toBeNull();
    expect(await agree(own, Buffer.alloc(32).toString('base64'), '12345678', 'host')).toBeNull();
  });

  test('what is sealed is opened with its key, for its side and its call alone, and not when a bit of it is another', () => {
    const key = Buffer.alloc(32, 7);
    fc.assert(
      fc.property(fc.jsonValue(), fc.nat(), (message, at) => {
        const box = seal(key, 'host', 'n1', { message });
        expect(unseal(key, 'host', 'n1', box)).toEqual(JSON.parse(JSON.stringify({ message })));
        expect(unseal(key, 'bench', 'n1', box)).toBeUndefined();
        expect(unseal(key, 'host', 'n2', box)).toBeUndefined();
        expect(unseal(Buffer.alloc(32, 8), 'host', 'n1', box)).toBeUndefined();
        const bytes = Buffer.from(box, 'base64');
        const i = at % bytes.length;
        bytes[i] = (bytes[i] ?? 0) ^ 1;
        expect(unseal(key, 'host', 'n1', bytes.toString('base64'))).toBeUndefined();
      }),
    );
  });
});

describe('pairing', () => {
  test('without a code on the host nobody is paired', async () => {
    expect(await proveWith(await host(), '12345678')).toMatchObject({ ok: false, problem: { code: 'no-code' } });
  });

  test('a code counts once, and for five minutes', async () => {
    const clock = new FakeClock();
    const at = await host(clock);
    const { code } = at.host.pairing.show();
    expect((await proveWith(at, code)).ok).toBe(true);
    expect(await proveWith(at, code)).toMatchObject({ problem: { code: 'no-code' } });
    const later = at.host.pairing.show();
    await clock.pass(5 * 60_000 + 1);
    expect(await proveWith(at, later.code)).toMatchObject({ problem: { code: 'no-code' } });
  });

  test('five wrong ones, and the code is void: guessing finds one in twenty million', async () => {
    const at = await host();
    const { code } = at.host.pairing.show();
    for (let i = 0; i < 5; i++) expect(await proveWith(at, another(code))).toMatchObject({ problem: { code: 'wrong-code' } });
    expect(await proveWith(at, code)).toMatchObject({ problem: { code: 'no-code' } });
  });

  test('many who begin at once do not make it compute without end', async () => {
    const at = await host();
    at.host.pairing.show();
    const begun = await Promise.all(Array.from({ length: 20 }, () => at.host.pairing.begin('flood', newPairKeys().publicKey)));
    expect(begun.filter(({ ok }) => ok).length).toBeLessThanOrEqual(3);
  });
});

describe('calls', () => {
  test('one that is sent again is refused, and so is one with a number that was not given out', async () => {
    const at = await host();
    const bench = await at.pair('bench');
    const { nonce } = at.host.greeting();
    const box = seal(bench.key, 'host', nonce, { call: 'state' });
    expect((await at.host.call(bench.id, nonce, box)).ok).toBe(true);
    expect(await at.host.call(bench.id, nonce, box)).toMatchObject({ problem: { code: 'stale' } });
    expect(await at.host.call(bench.id, 'made-up', seal(bench.key, 'host', 'made-up', { call: 'state' }))).toMatchObject({
      problem: { code: 'stale' },
    });
  });

  test('a bench that the host has forgotten is not heard any more; others are', async () => {
    const at = await host();
    const [first, second] = [await at.pair('first'), await at.pair('second')];
    expect((await first.call('forget', {})).ok).toBe(true);
    expect(await first.call('state', {})).toMatchObject({ problem: { code: 'not-paired' } });
    expect((await second.call('state', {})).ok).toBe(true);
  });

  test('what is no call, or says more than one says, is refused', async () => {
    const at = await host();
    const bench = await at.pair('bench');
    for (const message of [null, 5, {}, { call: 'shutdown' }, { call: 'state', more: 1 }, { call: 'read', from: -1 }, { call: 'constructor' }]) {
      const { nonce } = at.host.greeting();
      expect((await at.host.call(bench.id, nonce, seal(bench.key, 'host', nonce, message))).ok).toBe(false);
    }
  });
});
