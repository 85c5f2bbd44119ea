/** Bytes over a serial port of this machine. */
import { access } from 'node:fs';
import type { SerialPort } from 'serialport';
import type { Problem } from '@/core/result.ts';
import type { LineFormat } from '@/core/plan/lineTime.ts';
import { loadSerialPort } from '../serialLibrary.ts';
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
    let port: SerialPort | null = null;
    let looking: NodeJS.Timeout | undefined;
    let isClosed = false;
    const gone = (): void => {
      clearInterval(looking);
      if (!isClosed)
        lost({ code: 'port-gone', message: `The port ${path} has gone.`, remedy: 'Plug the adapter in again; the link comes back by itself.' });
    };
    const open = (Library: typeof SerialPort): void => {
      if (isClosed) return;
      const made = new Library({ path, baudRate: speed, dataBits, parity, stopBits, autoOpen: false, lock: true });
      port = made;
      made.on('data', data);
      made.on('error', (error) => lost(describePortError(error, path)));
      made.on('close', gone);
      looking = setInterval(() => access(path, (missing) => void (missing && made.isOpen && gone())), LOOK_MS);
      made.open((error) => {
        if (isClosed) return void (error ? undefined : made.close(() => undefined));
        if (error) lost(describePortError(error, path));
        else opened();
      });
    };
    loadSerialPort().then(open, (error: unknown) => {
      if (!isClosed) lost(describePortError(error instanceof Error ? error : new Error(String(error)), path));
    });
    const write = (bytes: Uint8Array): void => {
      const to = port;
      if (!to?.isOpen) return;
      if (direction === 'adapter') return void to.write(bytes);
      to.set({ rts: true }, () => {
        to.write(bytes);
        to.drain(() => void (to.isOpen && to.set({ rts: false }, () => undefined)));
      });
    };
    return {
      write,
      close: () => {
        if (isClosed) return;
        isClosed = true;
        clearInterval(looking);
        if (port?.isOpen) port.close(() => undefined);
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
