/** Bytes over a serial port of this machine. */
import { access } from 'node:fs';
import { SerialPort } from 'serialport';
import type { Problem } from '@/core/result.ts';
import type { LineFormat } from '@/core/plan/lineTime.ts';
import type { OpenPipe } from '../transport/connection.ts';

export interface SerialSettings extends LineFormat {
  readonly path: string;
  /** Who turns the direction of an RS-485 line around: the adapter, or we by its RTS line. */
  readonly direction: 'adapter' | 'rts';
}

/** A port that goes while nothing is read does not always say so: it is looked for this often. */
const LOOK_MS = 1000;

export function serialPipe({ path, speed, dataBits, parity, stopBits, direction }: SerialSettings): OpenPipe {
  return ({ opened, data, lost }) => {
    const port = new SerialPort({ path, baudRate: speed, dataBits, parity, stopBits, autoOpen: false, lock: true });
    let isClosed = false;
    port.on('data', data);
    port.on('error', (error) => lost(describePortError(error, path)));
    const gone = (): void => {
      clearInterval(looking);
      if (!isClosed)
        lost({ code: 'port-gone', message: `The port ${path} has gone.`, remedy: 'Plug the adapter in again; the link comes back by itself.' });
    };
    port.on('close', gone);
    const looking = setInterval(() => access(path, (missing) => void (missing && port.isOpen && gone())), LOOK_MS);
    port.open((error) => {
      if (isClosed) return void (error ? undefined : port.close(() => undefined));
      if (error) lost(describePortError(error, path));
      else opened();
    });
    const write = (bytes: Uint8Array): void => {
      if (!port.isOpen) return;
      if (direction === 'adapter') return void port.write(bytes);
      port.set({ rts: true }, () => {
        port.write(bytes);
        port.drain(() => void (port.isOpen && port.set({ rts: false }, () => undefined)));
      });
    };
    return {
      write,
      close: () => {
        if (isClosed) return;
        isClosed = true;
        clearInterval(looking);
        if (port.isOpen) port.close(() => undefined);
      },
    };
  };
}

function describePortError(error: Error, path: string): Problem {
  const text = error.message;
  if (/No such file|ENOENT|File not found/i.test(text))
    return { code: 'port-missing', message: `There is no port ${path}.`, remedy: 'Choose one of the ports listed, or plug the adapter in.' };
  if (/Permission denied|EACCES|Access denied/i.test(text))
    return {
      code: 'port-forbidden',
      message: `This user may not open ${path}.`,
      remedy: 'Add the user to the group of the port (dialout on Debian), and log in again.',
    };
  if (/lock|busy|EBUSY|Resource temporarily unavailable/i.test(text))
    return { code: 'port-in-use', message: `Another program holds ${path}.`, remedy: 'Close it; a serial port belongs to one program at a time.' };
  return { code: 'port', message: `The port ${path} failed: ${text.slice(0, 200)}`, remedy: 'Check the adapter and its settings.' };
}
