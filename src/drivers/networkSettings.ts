/** Settings that links over a network share, whatever they speak. Pure. */
import { wholeSetting, type Setting } from '@/core/manifest/settingsSchema.ts';

export interface HostSettings {
  readonly host: string;
  readonly port: number;
  /** Network adapter of this machine to use, empty for the one the system chooses. */
  readonly adapter: string;
}

/** @param port the usual one, with a sentence about it */
export function hostSettings(port: { readonly usual: number; readonly told: string }) {
  return {
    host: {
      type: 'string',
      title: 'Host',
      description: 'Name or IP address of the controller or gateway.',
      default: '127.0.0.1',
      format: 'host',
    },
    port: wholeSetting('Port', port.told, { min: 1, max: 65535, default: port.usual }),
    adapter: {
      type: 'string',
      title: 'Network adapter',
      description: 'Network adapter to go out by; empty lets the system choose.',
      default: '',
      maxLength: 60,
      'x-suggestions': 'adapters',
    },
  } as const satisfies Readonly<Record<string, Setting>>;
}
