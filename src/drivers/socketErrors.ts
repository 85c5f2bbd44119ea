/** Socket errors in words: refused, unreachable and silent hosts are told apart. */
import type { Problem } from '@/core/result.ts';

export function describeSocketError(error: NodeJS.ErrnoException, host: string, port: number): Problem {
  const where = `${host}:${port}`;
  switch (error.code) {
    case 'ECONNREFUSED':
      return {
        code: 'host-refused',
        message: `${host} answers, but nothing listens on port ${port}.`,
        remedy: 'Check the port, and whether the device has this protocol switched on.',
      };
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
    case 'EHOSTDOWN':
      return {
        code: 'host-unreachable',
        message: `There is no way to ${host} from this machine.`,
        remedy: 'Check the address, the subnet of this machine and the cable.',
      };
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return { code: 'host-unknown', message: `The name ${host} is not known.`, remedy: 'Check the spelling, or use the IP address.' };
    case 'ETIMEDOUT':
      return { code: 'host-silent', message: `${where} does not answer.`, remedy: 'Check address, cable and firewall.' };
    case 'ECONNRESET':
    case 'EPIPE':
      return {
        code: 'closed-by-peer',
        message: `${where} broke the connection.`,
        remedy: 'Many devices allow only one connection: check who else holds it.',
      };
    default:
      return { code: 'socket', message: `The connection to ${where} failed: ${error.code ?? error.message}.`, remedy: 'Check address and port.' };
  }
}
