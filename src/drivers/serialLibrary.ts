/** The library of serial ports: compiled for each kind of machine, so it is loaded where a port is used, and may fail there alone. */
import type { SerialPort } from 'serialport';

let loading: Promise<typeof SerialPort> | null = null;

/** @throws Error on a kind of machine that it was not compiled for */
export function loadSerialPort(): Promise<typeof SerialPort> {
  loading ??= import('serialport').then((library) => library.SerialPort);
  return loading;
}

/** Why no serial port can be opened on this machine; null where one can. */
export async function lacksSerialPorts(): Promise<string | null> {
  try {
    await loadSerialPort();
    return null;
  } catch (error) {
    const why = error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error);
    return `serial ports cannot be opened on ${process.platform} ${process.arch} (${why}).`;
  }
}
