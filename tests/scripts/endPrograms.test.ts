/** How the commands end what they started: what is held on must be let go while its device still listens. */
import { expect, test } from '@jest/globals';
import { spawn, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { until } from '../support/until.ts';

/** A command of ours with a server and a device; each says what happens to it. `lateMs`: what the server needs to end. */
const COMMAND = (lateMs: number): string => `
  import { spawn } from 'node:child_process';
  import { endPrograms } from ${JSON.stringify(join(process.cwd(), 'scripts/lib.mjs'))};
  const program = (name, ms) => {
    const code = \`process.on('SIGTERM', () => { console.log('\${name} is asked'); setTimeout(() => process.exit(), \${ms}); });
      setInterval(() => undefined, 1000); console.log('\${name} runs');\`;
    const child = spawn(process.execPath, ['-e', code], { detached: true, stdio: ['ignore', 'inherit', 'inherit'] });
    child.on('exit', (_code, signal) => console.log(name + ' ended' + (signal ? ' by ' + signal : '')));
    return child;
  };
  const [server, device] = [program('server', ${lateMs}), program('device', 0)];
  let ending = false;
  process.on('SIGINT', async () => {
    if (ending) return;
    ending = true;
    await endPrograms(server, [device]);
    process.exit();
  });
`;

interface Running {
  readonly child: ChildProcess;
  readonly said: () => readonly string[];
}

async function begun(lateMs: number): Promise<Running> {
  const child = spawn(process.execPath, ['--input-type=module', '-e', COMMAND(lateMs)], { stdio: ['ignore', 'pipe', 'inherit'] });
  let text = '';
  child.stdout.on('data', (chunk: Buffer) => (text += chunk.toString()));
  const said = (): readonly string[] => text.trim().split('\n');
  await until('both run', () => said().includes('server runs') && said().includes('device runs'), 10_000);
  return { child, said };
}
const ended = ({ child }: Running): Promise<void> => until('the command has ended', () => child.exitCode !== null, 10_000);

test('the server ends before the devices are asked to', async () => {
  const command = await begun(500);
  command.child.kill('SIGINT');
  await ended(command);
  expect(command.said().slice(2)).toEqual(['server is asked', 'server ended', 'device is asked', 'device ended']);
});

test('Ctrl-C once more does not wait for the server, and the devices end as well', async () => {
  const command = await begun(60_000);
  command.child.kill('SIGINT');
  await until('the server is asked', () => command.said().includes('server is asked'));
  command.child.kill('SIGINT');
  await ended(command);
  expect(command.said().slice(2)).toEqual(['server is asked', 'server ended by SIGKILL', 'device is asked', 'device ended']);
});
