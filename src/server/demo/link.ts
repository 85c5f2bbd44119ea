/** The links of the demo, which `demo/links.json` describes beside the lists: `$port` and the like stand there for what each start brings. */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { sameJson } from '@/core/project/sameJson.ts';
import type { Settings } from '@/drivers/contract.ts';

/** Where a stand-in of the demo is reached. */
export interface DemoPlace {
  readonly port: number;
  readonly controlPort: number;
  /** Of its certificate, where it has one: who sets the demo up has seen it. */
  readonly fingerprint?: string;
}

export interface DemoLink {
  readonly link: { readonly name: string; readonly driver: string; readonly settings: Settings };
  /** Settings of a device on it. @param number of several alike, from 1 on */
  readonly device: (number?: number) => Settings;
  readonly dialect: Settings;
  readonly witnessUrl: string;
  /** The settings of a link of before, with what this start brings; null when that is there already. */
  readonly moved: (settings: Settings) => Settings | null;
}

/** @param text as the command line has it: PORT,CONTROL[,FINGERPRINT] */
export function demoPlace(text: string): DemoPlace {
  const [port, control, fingerprint = ''] = text.split(',');
  return { port: Number(port), controlPort: Number(control), fingerprint };
}

/** @param folder of `links.json` */
export async function demoLink(folder: string, name: string, place: DemoPlace): Promise<DemoLink> {
  const all = JSON.parse(await readFile(join(folder, 'links.json'), 'utf8')) as Record<string, Told | undefined>;
  const told = all[name];
  if (!told) throw new Error(`demo/links.json knows no ${name}.`);
  const brought = filledIn(told.settings, { port: place.port, fingerprint: place.fingerprint ?? '' });
  return {
    link: { name: told.name, driver: told.driver, settings: { ...told.settings, ...brought } },
    device: (number = 1) => ({ ...told.device, ...filledIn(told.device, { number }) }),
    dialect: told.dialect,
    witnessUrl: `http://127.0.0.1:${place.controlPort}`,
    moved: (settings) => (sameJson({ ...settings, ...brought }, settings) ? null : { ...settings, ...brought }),
  };
}

interface Told {
  readonly name: string;
  readonly driver: string;
  readonly settings: Settings;
  readonly device: Settings;
  readonly dialect: Settings;
}

/** The settings in which something is filled in; what stands alone keeps its kind. */
function filledIn(settings: Settings, values: Readonly<Record<string, string | number>>): Settings {
  const filled: Record<string, unknown> = {};
  for (const [key, text] of Object.entries(settings))
    for (const [name, value] of Object.entries(values))
      if (typeof text === 'string' && text.includes(`$${name}`)) filled[key] = text === `$${name}` ? value : text.replace(`$${name}`, String(value));
  return filled;
}
