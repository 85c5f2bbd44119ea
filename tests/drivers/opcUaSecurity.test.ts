/** Certificates, policies and users of the OPC UA driver against a server of another make (node-opcua's server half). */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { once } from 'node:events';
import { connect, createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { TestStage } from '@/drivers/contract.ts';
import { opcUa } from '@/drivers/opcUa/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { freePort } from '../support/server.ts';
import { newPki, UaServer } from '../support/uaServer.ts';
import { closeSessions, connected, folder, frames, NONE, point, port, read, stages, waiting } from '../support/uaSession.ts';
import { until } from '../support/until.ts';

let server: UaServer;

beforeAll(async () => {
  server = await UaServer.start({ port });
});
afterEach(closeSessions);
afterAll(() => server.stop());

/** Passes everything on, and keeps it. */
async function eavesdrop(to: number): Promise<{ readonly port: number; readonly bytes: Buffer[]; close(): void }> {
  const bytes: Buffer[] = [];
  const between = createServer((near) => {
    const far = connect(to, '127.0.0.1');
    for (const [one, other] of [
      [near, far],
      [far, near],
    ] as const) {
      one.on('data', (chunk: Buffer) => {
        bytes.push(chunk);
        other.write(chunk);
      });
      one.on('close', () => other.destroy());
      one.on('error', () => other.destroy());
    }
  });
  between.listen(0, '127.0.0.1');
  await once(between, 'listening');
  return { port: (between.address() as AddressInfo).port, bytes, close: () => void between.close() };
}

describe('security', () => {
  const secure = (trusted: string, more: Record<string, unknown> = {}) => ({
    endpoint: NONE.endpoint,
    policy: 'Aes256_Sha256_RsaPss',
    mode: 'SignAndEncrypt',
    trusted,
    ...more,
  });
  let fingerprint = '';

  test('an unknown certificate is shown and not used; accepted, it is; then everything is encrypted', async () => {
    expect((await waiting(secure(''))).problem?.code).toBe('certificate-unknown');
    const tested = await stages(secure(''), point('Weight', 'LREAL'));
    expect(tested.map((s) => `${s.id} ${s.state}`)).toEqual([
      'host passed',
      'hello passed',
      'endpoints passed',
      'security failed',
      'session skipped',
      'namespaces skipped',
      'read skipped',
      'subscription skipped',
    ]);
    const proposal = tested.find(({ id }) => id === 'security')?.proposal;
    fingerprint = String(proposal?.settings.trusted);
    expect([proposal?.of, fingerprint]).toEqual(['link', expect.stringMatching(/^[0-9a-f]{64}$/)]);
    const again = await stages(secure(fingerprint), point('Weight', 'LREAL'));
    expect(again.map((s) => `${s.id} ${s.state}`)).toEqual([
      'host passed',
      'hello passed',
      'endpoints passed',
      'security passed',
      'session passed',
      'namespaces passed',
      'read passed',
      'subscription passed',
    ]);
    const wire = await eavesdrop(port);
    for (const [settings, isSeen] of [
      [NONE, true],
      [secure(fingerprint), false],
    ] as const) {
      wire.bytes.length = 0;
      const device = await connected({ ...settings, endpoint: `opc.tcp://127.0.0.1:${wire.port}` });
      expect(await read(device, point('Recipe', 'STRING(20)'))).toEqual(['Oats 12']);
      expect(Buffer.concat(wire.bytes).includes('Oats 12')).toBe(isSeen);
    }
    wire.close();
  });

  test.each(['Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'])('%s works, signed and encrypted', async (policy) => {
    for (const mode of ['Sign', 'SignAndEncrypt']) {
      const device = await connected({ ...secure(fingerprint), policy, mode });
      expect(await read(device, point('Serial', 'UDINT'))).toEqual(['407133']);
    }
  });

  test('a certificate that was changed is refused, and both fingerprints are told', async () => {
    await server.stop();
    const { pki } = server;
    server = await UaServer.start({ port, pki: newPki() });
    const state = await waiting(secure(fingerprint));
    expect(state.problem?.code).toBe('certificate-changed');
    expect(state.problem?.message).toContain(fingerprint.slice(0, 4));
    await server.stop();
    server = await UaServer.start({ port, pki });
    await connected(secure(fingerprint));
  });

  test('a certificate that ends while it is connected costs nothing until the next connection, which says so; with the right clock it comes back', async () => {
    const at = await freePort();
    const pki = newPki();
    const renewing = await UaServer.start({ port: at, pki });
    const settings = { ...secure(''), endpoint: `opc.tcp://127.0.0.1:${at}` };
    const trusted = (await stages(settings)).flatMap(({ proposal }) => (proposal ? [String(proposal.settings.trusted)] : []))[0] ?? '';
    let offsetMs = 0;
    const clock = { now: () => systemClock.now() + offsetMs, after: (ms: number, call: () => void) => systemClock.after(ms, call) };
    const session = opcUa.createSession({
      settings: { ...settings, trusted },
      folder,
      clock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    session.start();
    await until('it is connected', () => session.state.phase === 'connected', 20_000);
    const device = session.device({}, {});
    offsetMs = 40 * 365 * 86_400_000;
    expect(await read(device, point('Weight', 'LREAL'))).toEqual(['120.25']);
    await renewing.stop();
    const again = await UaServer.start({ port: at, pki });
    await until('it is refused', () => session.state.problem?.code === 'certificate-expired', 20_000);
    expect(await read(device, point('Weight', 'LREAL'))).toEqual(['link-down: not-connected']);
    offsetMs = 0;
    await until('it is connected again', () => session.state.phase === 'connected', 60_000);
    expect(await read(device, point('Weight', 'LREAL'))).toEqual(['120.25']);
    session.close();
    await again.stop();
  });

  test('a wrong password is told as one; the right one signs in', async () => {
    await server.stop();
    const { pki } = server;
    server = await UaServer.start({ port, pki, user: { name: 'vale', password: 'Oats-1' } });
    const as = (password: string) => secure(fingerprint, { user: 'password', userName: 'vale', password });
    expect((await waiting(as('wrong'))).problem?.code).toMatch(/BadUserAccessDenied|BadIdentityTokenRejected/);
    expect((await waiting(as(''))).problem?.code).toBe('no-password');
    expect((await waiting(secure(fingerprint))).problem?.code).toMatch(/^Bad(Identity|User)/);
    frames.length = 0;
    await connected(as('Oats-1'));
    await connected({ ...as('Oats-1'), policy: 'None' });
    expect(frames.length).toBeGreaterThan(10);
    for (const { bytes } of frames) expect(Buffer.from(bytes).includes('Oats-1')).toBe(false);
    await server.stop();
    server = await UaServer.start({ port, pki });
  });

  test('a user signs in with a certificate; one that the server does not know is refused, and what is none is told before anything is sent', async () => {
    const userCertificate = readFileSync(join(folder, 'own-certificate.pem'), 'utf8');
    const userKey = readFileSync(join(folder, 'pki/own/private/private_key.pem'), 'utf8');
    const as = (more: Record<string, unknown> = {}) => secure(fingerprint, { user: 'certificate', userCertificate, userKey, ...more });
    await server.stop();
    const { pki } = server;
    server = await UaServer.start({ port, pki, userCertificates: 'any' });
    expect(await read(await connected(as()), point('Serial', 'UDINT'))).toEqual(['407133']);
    expect((await waiting(secure(fingerprint))).problem?.code).toMatch(/^Bad(Identity|User)/);
    expect((await waiting(as({ userKey: '' }))).problem?.code).toBe('no-key');
    expect((await waiting(as({ userKey: 'oats' }))).problem?.code).toBe('no-key');
    expect((await waiting(as({ userCertificate: 'oats' }))).problem?.code).toBe('no-certificate');
    frames.length = 0;
    await connected({ ...as(), policy: 'None' });
    const secret = userKey.split('\n')[3] ?? '';
    for (const { bytes } of frames) expect(Buffer.from(bytes).includes(secret)).toBe(false);
    await server.stop();
    server = await UaServer.start({ port, pki, userCertificates: 'known' });
    expect((await waiting(as())).problem?.code).toMatch(/^Bad(Identity|User|Certificate)/);
    await server.stop();
    server = await UaServer.start({ port, pki });
  });

  test.each([
    ['nobody listens', null, 'host', 'host-refused'],
    ['another program answers', 'HTTP/1.1 400 Bad Request\r\n\r\n', 'hello', 'stranger'],
    ['a program closes the connection', '', 'hello', 'closed'],
    ['a program says nothing', 'silence', 'hello', 'no-answer'],
    [
      'a server refuses the address',
      Buffer.concat([Buffer.from('ERRF\x19\0\0\0'), Buffer.from([0, 0, 0x83, 0x80]), Buffer.from('\x09\0\0\0elsewhere')]),
      'hello',
      'BadTcpEndpointUrlInvalid',
    ],
  ])('a port where %s is told by the stage that meets it', async (_what, says, stage, cause) => {
    const at = await freePort();
    const other = createServer((socket) => {
      socket.on('error', () => undefined);
      if (says === '') socket.end();
      else if (says !== 'silence' && says !== null) socket.write(says);
    });
    if (says !== null) await new Promise<void>((resolve) => other.listen(at, '127.0.0.1', resolve));
    const session = opcUa.createSession({
      settings: { endpoint: `opc.tcp://127.0.0.1:${at}`, policy: 'None' },
      folder,
      clock: systemClock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    const tested: TestStage[] = [];
    const context = { signal: new AbortController().signal, deadline: Infinity };
    for await (const told of session.device({}, { timeoutMs: 300 }).test([], context)) tested.push(told);
    expect(tested.filter(({ state }) => state === 'failed')).toMatchObject([{ id: stage, causes: [{ id: cause }] }]);
    expect(tested.filter(({ state }) => state === 'skipped').length).toBe(stage === 'host' ? 7 : 6);
    other.close();
  });

  test('our own key is ours alone', () => {
    const own = (at: string): string[] =>
      readdirSync(at, { withFileTypes: true }).flatMap((e) => (e.isDirectory() ? own(join(at, e.name)) : [join(at, e.name)]));
    const keys = own(folder).filter((file) => /private.*\.pem$/.test(file));
    expect(keys.length).toBeGreaterThan(0);
    expect(statSync(folder).mode & 0o077).toBe(0);
  });
});
