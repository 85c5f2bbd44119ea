/** Certificates: our own, made at first use, and those of servers, which a person accepts by their fingerprint. */
import { createHash, X509Certificate } from 'node:crypto';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Library } from './library.ts';

/** SHA-256 of the certificate as it is sent (DER), in hexadecimal. */
export function fingerprintOf(certificate: Uint8Array): string {
  return createHash('sha256').update(certificate).digest('hex');
}

/** Four digits at a time, as people compare them. */
export function spacedFingerprint(fingerprint: string): string {
  return fingerprint.replace(/(.{4})(?=.)/g, '$1 ');
}

/**
 * Whether a server's certificate is the one that was accepted, and valid now.
 * @param trusted fingerprint that a person has accepted; empty for none
 */
export function judgeCertificate(certificate: Uint8Array, trusted: string, now: number): Result<null> {
  const fingerprint = fingerprintOf(certificate);
  if (trusted === '')
    return fail(
      'certificate-unknown',
      `The certificate of the server has not been accepted yet. Its fingerprint is ${spacedFingerprint(fingerprint)}.`,
      'Test the connection, compare the fingerprint with the server, and accept it.',
    );
  if (fingerprint !== trusted.toLowerCase())
    return fail(
      'certificate-changed',
      `The server shows another certificate than the one that was accepted: ${spacedFingerprint(fingerprint)} instead of ${spacedFingerprint(trusted)}.`,
      'Find out why it was changed. If that is right, accept the new one in the test of the connection.',
    );
  const read = readCertificate(certificate);
  if (!read) return fail('certificate-damaged', 'What the server shows as its certificate is none.', 'Have its certificate made anew.');
  if (now > Date.parse(read.validTo))
    return fail(
      'certificate-expired',
      `The certificate of the server ended on ${day(read.validTo)}.`,
      'Have it renewed in the server, or set the clock of this machine.',
    );
  if (now < Date.parse(read.validFrom))
    return fail(
      'certificate-early',
      `The certificate of the server begins on ${day(read.validFrom)}, and the clock here says ${day(new Date(now).toISOString())}.`,
      'Compare the clocks of both machines.',
    );
  return ok(null);
}

/** Whose it is and until when, for a person who compares. */
export function certificateInWords(certificate: Uint8Array): string {
  const read = readCertificate(certificate);
  if (!read) return 'no certificate that can be read';
  const name = /CN=([^\n]+)/.exec(read.subject)?.[1] ?? read.subject.replaceAll('\n', ', ');
  return `${name}, valid from ${day(read.validFrom)} to ${day(read.validTo)}`;
}

function day(text: string): string {
  return new Date(text).toISOString().slice(0, 10);
}

function readCertificate(certificate: Uint8Array): X509Certificate | null {
  try {
    return new X509Certificate(certificate);
  } catch {
    return null;
  }
}

const managers = new Map<string, Promise<InstanceType<Library['OPCUACertificateManager']>>>();

/**
 * Our own certificate and key, in a folder that only we read. What servers show is judged before a connection is made with it,
 * so that the library has nothing left to judge.
 */
export function ownCertificates(ua: Library, folder: string): Promise<InstanceType<Library['OPCUACertificateManager']>> {
  const known = managers.get(folder);
  if (known) return known;
  const making = (async () => {
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const manager = new ua.OPCUACertificateManager({ rootFolder: join(folder, 'pki'), automaticallyAcceptUnknownCertificate: true });
    await manager.initialize();
    return manager;
  })();
  managers.set(folder, making);
  making.catch(() => managers.delete(folder));
  return making;
}
