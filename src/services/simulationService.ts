/**
 * Desk work: a link leads to a simulation of its devices while the machine is not there. That is a change of the
 * project like any other, so what is proven against the simulation is not proven against the machine.
 */
import { v7 as uuid } from 'uuid';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Link } from '@/core/project/entities.ts';
import { simulatedTag, type SimulatedTagJson } from '@/drivers/modbus/simulate.ts';
import { dialectOf } from '@/drivers/modbus/settings.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ProjectService } from './projectService.ts';

export interface SimulationConfig {
  readonly form: 'tcp' | 'rtu';
  readonly speed: number;
  readonly devices: readonly { readonly unit: number; readonly name: string; readonly tags: readonly SimulatedTagJson[] }[];
}

export interface RunningSimulation {
  readonly modbusPort: number;
  readonly controlPort: number;
  stop(): void;
}

/** Starts the program that speaks for the devices. */
export type StartSimulation = (config: SimulationConfig) => Promise<RunningSimulation>;

export class SimulationService {
  readonly #model: ProjectModel;
  readonly #projects: ProjectService;
  readonly #start: StartSimulation;
  readonly #running = new Map<string, RunningSimulation>();

  constructor(model: ProjectModel, projects: ProjectService, start: StartSimulation) {
    this.#model = model;
    this.#projects = projects;
    this.#start = start;
    projects.onApplied(({ changes }) => {
      // A change that was undone, or made by hand, may have led the link back to the machine.
      if (changes.some((c) => c.kind === 'link'))
        for (const [linkId, running] of this.#running)
          if (!this.#model.get('link', linkId)?.real) {
            running.stop();
            this.#running.delete(linkId);
          }
    });
  }

  /** Leads a link to a simulation of its devices as they are set up now; again, when their tags have changed. */
  async begin(linkId: string): Promise<Result<null>> {
    const link = this.#model.get('link', linkId);
    if (!link) return fail('gone', 'The link is not there (any more).', 'Reload, and try again.');
    const config = this.#configOf(link);
    if (!config.ok) return config;
    const running = await this.#start(config.value).catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
    if (running instanceof Error) return fail('no-simulation', `The simulation did not start: ${running.message}`, 'Look at the log of the server.');
    const simulated = {
      driver: config.value.form === 'tcp' ? 'modbus-tcp' : 'modbus-gateway',
      settings:
        config.value.form === 'tcp'
          ? { host: '127.0.0.1', port: running.modbusPort }
          : { host: '127.0.0.1', port: running.modbusPort, speed: config.value.speed },
    };
    const witnessUrl = `http://127.0.0.1:${running.controlPort}`;
    const real = link.real ?? { driver: link.driver, settings: link.settings };
    this.#running.get(linkId)?.stop();
    this.#running.set(linkId, running);
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId);
    const done = await this.#projects.execute(
      {
        id: uuid(),
        label: `link ${link.name} leads to a simulation`,
        changes: [
          { kind: 'link', id: linkId, set: { ...simulated, real } },
          ...devices.map((d) => ({ kind: 'device' as const, id: d.id, set: { witnessUrl } })),
        ],
      },
      'simulation',
    );
    if (done.ok) return ok(null);
    running.stop();
    this.#running.delete(linkId);
    return done;
  }

  /** Leads a link to the machine again. */
  async end(linkId: string): Promise<Result<null>> {
    const link = this.#model.get('link', linkId);
    if (!link?.real) return fail('gone', 'The link leads to the machine already.');
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId);
    const done = await this.#projects.execute(
      {
        id: uuid(),
        label: `link ${link.name} leads to the machine again`,
        changes: [
          { kind: 'link', id: linkId, set: { ...link.real, real: null } },
          ...devices.map((d) => ({ kind: 'device' as const, id: d.id, set: { witnessUrl: '' } })),
        ],
      },
      'simulation',
    );
    return done.ok ? ok(null) : done;
  }

  /** After a start of the server: simulations have ended with the last one. */
  async resume(): Promise<void> {
    for (const link of this.#model.all('link')) {
      if (!link.real || this.#running.has(link.id)) continue;
      const done = await this.begin(link.id);
      if (!done.ok) console.error(`The simulation of link ${link.name} is not back: ${done.problem.message}`);
    }
  }

  close(): void {
    for (const running of this.#running.values()) running.stop();
    this.#running.clear();
  }

  #configOf(link: Link): Result<SimulationConfig> {
    const devices = [];
    for (const device of this.#model.all('device').filter((d) => d.linkId === link.id)) {
      if (dialectOf(device.dialect).wide === 'one')
        return fail(
          'not-simulated',
          `${device.name} keeps 32-bit values behind one address, which is not simulated.`,
          'Choose two addresses for the time being.',
        );
      const tags: SimulatedTagJson[] = [];
      for (const tag of this.#model.tagsOf(device.id)) {
        const signal = this.#model.effective(tag.id);
        const simulated = signal.ok ? simulatedTag(tag, signal.value) : null;
        if (simulated?.ok) tags.push(simulated.value);
      }
      devices.push({ unit: Number(device.settings.unit ?? 1), name: device.name, tags });
    }
    if (devices.every((d) => d.tags.length === 0)) return fail('nothing-to-simulate', 'No device of this link has tags.', 'Import a list first.');
    const real = link.real ?? link;
    const isLine = real.driver === 'modbus-serial' || real.driver === 'modbus-gateway';
    return ok({ form: isLine ? 'rtu' : 'tcp', speed: Number(real.settings.speed ?? 19_200), devices });
  }
}
