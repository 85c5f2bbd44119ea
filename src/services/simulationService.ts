/**
 * Desk work: a link leads to a simulation of its devices while the machine is not there. That is a change of the
 * project like any other, so what is proven against the simulation is not proven against the machine.
 */
import { v7 as uuid } from 'uuid';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { SimulatedDevice, SimulatedTag } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ProjectService } from './projectService.ts';

export interface RunningSimulation {
  readonly port: number;
  readonly controlPort: number;
  stop(): void;
}

/** Starts the program that speaks for the devices. */
export type StartSimulation = (config: object) => Promise<RunningSimulation>;

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
    const real = link.real ?? { driver: link.driver, settings: link.settings };
    const simulation = describeDriver(real.driver)?.simulation;
    if (!simulation) return fail('not-simulated', 'Devices of this protocol are not simulated.');
    const config = simulation.config(real.settings, this.#devicesOf(linkId));
    if (!config.ok) return config;
    const running = await this.#start(config.value).catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
    if (running instanceof Error) return fail('no-simulation', `The simulation did not start: ${running.message}`, 'Look at the log of the server.');
    const witnessUrl = `http://127.0.0.1:${running.controlPort}`;
    this.#running.get(linkId)?.stop();
    this.#running.set(linkId, running);
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId);
    const done = await this.#projects.execute(
      {
        id: uuid(),
        label: `link ${link.name} leads to a simulation`,
        changes: [
          { kind: 'link', id: linkId, set: { ...simulation.reach(real.settings, running.port), real } },
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

  #devicesOf(linkId: string): readonly SimulatedDevice[] {
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId);
    return devices.map(({ id, name, settings, dialect }) => ({
      name,
      settings,
      dialect,
      tags: this.#model.tagsOf(id).flatMap((tag) => this.#tag(tag)),
    }));
  }

  /** Tags whose settings do not fit together are not simulated. */
  #tag({ id, name }: Tag): readonly SimulatedTag[] {
    const signal = this.#model.effective(id);
    return signal.ok ? [{ name, canonical: signal.value.canonical, def: signal.value.def, isSetPoint: signal.value.access === 'readWrite' }] : [];
  }
}
