/** Starts a stand-in as a process of its own, as the product does, and ends it by its id. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

export interface RunningStandin {
  readonly process: ChildProcess;
  readonly modbusPort: number;
  /** Of one with a server of OPC UA, and of its certificate. */
  readonly uaPort: number;
  readonly fingerprint: string;
  /** Of one with named tags. */
  readonly cipPort: number;
  readonly controlPort: number;
  readonly controlUrl: string;
  value(name: string): Promise<number | boolean | string>;
  order(what: object): Promise<void>;
  hold(held: boolean): Promise<void>;
  /** What the controller's own program does by itself. */
  set(name: string, value: boolean | number | string): Promise<void>;
  stop(): Promise<void>;
}

export function startKiln(port = 0, control = 0): Promise<RunningStandin> {
  return startStandin('kiln', ['--port', String(port), '--control', String(control)]);
}

export async function startStandin(
  name: 'kiln' | 'rolls' | 'weigh' | 'pack' | 'scratch' | 'caller',
  args: readonly string[] = [],
): Promise<RunningStandin> {
  const file = fileURLToPath(new URL(`../../dist/standin-${name}.mjs`, import.meta.url));
  const child = spawn(process.execPath, [file, ...args, '--with-parent'], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  const [line] = (await once(child.stdout, 'data')) as [Buffer];
  const {
    modbusPort = 0,
    uaPort = 0,
    fingerprint = '',
    cipPort = 0,
    controlPort,
  } = JSON.parse(line.toString()) as Partial<RunningStandin> & { controlPort: number };
  const controlUrl = `http://127.0.0.1:${controlPort}`;
  const order = async (what: object): Promise<void> => {
    const answered = await fetch(`${controlUrl}/orders`, { method: 'POST', body: JSON.stringify(what) });
    if (!answered.ok) throw new Error(await answered.text());
  };
  return {
    process: child,
    modbusPort,
    uaPort,
    fingerprint,
    cipPort,
    controlPort,
    controlUrl,
    async value(name) {
      const told = (await (await fetch(`${controlUrl}/values/${name}`)).json()) as { value: number | boolean | string };
      return told.value;
    },
    order,
    hold: (held) => order({ hold: held }),
    set: (name, value) => order({ set: { [name]: value } }),
    async stop() {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, 'exit');
      child.kill('SIGKILL');
      await ended;
    },
  };
}
