/** Runs of checks. What became of a tag is in the trail, so a run that was broken off goes on where it was. */
import { createHash } from 'node:crypto';
import { MOST_PHOTOS, readPhoto } from '@/core/check/photo.ts';
import { WITNESSES, type CheckResult } from '@/core/check/proof.ts';
import { countsOf, entriesOf, type Run, type RunCounts, type RunEntry, type RunLabel, type RunLook } from '@/core/check/run.ts';
import type { StepContent, TrailStep } from '@/core/check/trailStep.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { CheckRunStore } from '@/store/checkRunStore.ts';
import type { PhotoStore } from '@/store/photoStore.ts';
import type { Trail } from '@/store/trail.ts';
import type { CheckService, Witness } from './checkService.ts';

export interface RunSummary extends Run {
  readonly counts: RunCounts;
}
export interface RunNow {
  readonly run: Run;
  readonly entries: readonly RunEntry[];
  readonly counts: RunCounts;
  /** By tag. */
  readonly labels: Readonly<Record<string, RunLabel>>;
}

/** What a person says of a tag in a run. */
export type SaidStep = Extract<StepContent, { step: 'skipped' | 'waived' | 'note' | 'finding' | 'cured' }>;

/** Where runs are kept, and photos of what was found in them. */
export interface RunStores {
  readonly store: CheckRunStore;
  readonly photos: PhotoStore;
}

const LISTED = 30;

export class RunService {
  readonly #model: ProjectModel;
  readonly #checks: CheckService;
  readonly #store: CheckRunStore;
  readonly #photos: PhotoStore;
  readonly #trail: Trail;
  readonly #clock: Clock;
  /** Steps of runs that were asked for, the oldest first. */
  readonly #steps = new Map<string, TrailStep[]>();
  readonly #runs = new Map<string, Run>();

  constructor(model: ProjectModel, checks: CheckService, { store, photos }: RunStores, trail: Trail, clock: Clock) {
    this.#model = model;
    this.#checks = checks;
    this.#store = store;
    this.#photos = photos;
    this.#trail = trail;
    this.#clock = clock;
  }

  async newest(): Promise<readonly RunSummary[]> {
    const runs = await this.#store.newest(LISTED);
    return Promise.all(runs.map(async (run) => ({ ...run, counts: countsOf(await this.#entries(run)) })));
  }

  async get(id: string): Promise<Result<RunNow>> {
    const run = await this.#run(id);
    if (!run.ok) return run;
    const entries = await this.#entries(run.value);
    return ok({ run: run.value, entries, counts: countsOf(entries), labels: this.#labelsOf(run.value) });
  }

  /** A tag of a run as it is now, for somebody who looks at a panel. */
  async look(id: string, tagId: string): Promise<Result<RunLook>> {
    const run = await this.#run(id);
    if (!run.ok) return run;
    return run.value.tagIds.includes(tagId) ? this.#checks.look(tagId) : fail('gone', 'The tag is not part of this run.', 'Reload, and try again.');
  }

  #labelsOf({ tagIds }: Run): Readonly<Record<string, RunLabel>> {
    const labels: Record<string, RunLabel> = {};
    for (const tagId of tagIds) {
      const tag = this.#model.get('tag', tagId);
      if (!tag) continue;
      const signal = this.#model.effective(tagId);
      const def = signal.ok ? signal.value.def : null;
      labels[tagId] = {
        name: tag.name,
        where: whereOf(this.#model, tag),
        unit: tag.unit,
        states: def?.names?.map(({ name }) => name) ?? (def?.type.kind === 'boolean' ? ['on', 'off'] : []),
      };
    }
    return labels;
  }

  async begin(plan: Omit<Run, 'begunAt' | 'endedAt'>): Promise<Result<RunNow>> {
    const tagIds = [...new Set(plan.tagIds)];
    const gone = tagIds.find((id) => !this.#model.get('tag', id));
    if (gone !== undefined) return fail('gone', 'A tag of the run is not there (any more).', 'Choose again what to check.', 'tagIds');
    const run: Run = { ...plan, tagIds, begunAt: isoTime(this.#clock), endedAt: null };
    await this.#store.add(run);
    await this.#add(run, null, run.who, { step: 'begun', words: `${run.name}: ${tagIds.length} tags against ${WITNESSES[run.witness]}` });
    return this.get(run.id);
  }

  /** Checks a tag in a run, and notes what came of it. */
  async check(id: string, tagId: string, witness: Witness): Promise<Result<CheckResult>> {
    const run = await this.#open(id, tagId);
    if (!run.ok) return run;
    const done = await this.#checks.check(tagId, witness, { runId: id });
    if (!done.ok || done.value.proof === null) return done;
    const { outcome, seen, who } = done.value.proof;
    const said = witness.kind === 'typed' ? witness.text.slice(0, 200) : String(seen.witness.value).slice(0, 200);
    await this.#add(run.value, tagId, who, { step: 'looked', seen: said, outcome, sentence: seen.sentence });
    return done;
  }

  /** A person says something of a tag of the run. */
  async say(id: string, tagId: string, who: string, step: SaidStep): Promise<Result<RunNow>> {
    const run = await this.#open(id, tagId);
    if (!run.ok) return run;
    if (step.step === 'waived') {
      const waived = await this.#checks.waive(tagId, who, step.words, id);
      if (!waived.ok) return waived;
    }
    if (step.step === 'cured') this.#checks.forget(tagId);
    await this.#add(run.value, tagId, who, step);
    return this.get(id);
  }

  stepsOfTag(tagId: string): Promise<readonly TrailStep[]> {
    return this.#trail.stepsOfTag(tagId);
  }

  /** Something that happened to a tag beside what people say: in its run, where there is one. */
  async note(runId: string | null, tagId: string, who: string, what: StepContent): Promise<void> {
    const run = runId === null ? null : await this.#run(runId);
    if (run?.ok) await this.#add(run.value, tagId, who, what);
    else await this.#trail.addSteps([{ runId: null, tagId, who, at: isoTime(this.#clock), what }]);
  }

  /** A photo of what was seen: its digest stands in the trail. */
  async keepPhoto(id: string, tagId: string, who: string, words: string, bytes: Uint8Array): Promise<Result<RunNow>> {
    const run = await this.#open(id, tagId);
    if (!run.ok) return run;
    const facts = readPhoto(bytes);
    if (!facts.ok) return facts;
    const known = (await this.#entries(run.value)).flatMap(({ photos }) => photos);
    if (known.length >= MOST_PHOTOS) return fail('too-many', `A run keeps at most ${MOST_PHOTOS} photos.`, 'Begin another run.');
    const digest = createHash('sha256').update(bytes).digest('hex');
    await this.#photos.keep(digest, bytes);
    await this.#add(run.value, tagId, who, { step: 'note', words, picture: digest });
    return this.get(id);
  }

  async photo(digest: string): Promise<Result<Uint8Array<ArrayBuffer>>> {
    const bytes = await this.#photos.bytesOf(digest);
    return bytes ? ok(bytes) : fail('gone', 'There is no such photo.');
  }

  /** A run that was ended can be gone on with. */
  async setEnded(id: string, who: string, isEnded: boolean): Promise<Result<RunNow>> {
    const run = await this.#run(id);
    if (!run.ok) return run;
    const next: Run = { ...run.value, endedAt: isEnded ? isoTime(this.#clock) : null };
    await this.#store.end(id, next.endedAt);
    this.#runs.set(id, next);
    await this.#add(next, null, who, { step: isEnded ? 'ended' : 'resumed', words: next.name });
    return this.get(id);
  }

  async #run(id: string): Promise<Result<Run>> {
    const run = this.#runs.get(id) ?? (await this.#store.get(id));
    if (!run) return fail('gone', 'There is no such run.', 'Reload, and choose one of the list.');
    this.#runs.set(id, run);
    return ok(run);
  }

  async #open(id: string, tagId: string): Promise<Result<Run>> {
    const run = await this.#run(id);
    if (!run.ok) return run;
    if (run.value.endedAt !== null) return fail('run-ended', 'The run was ended.', 'Go on with it first, or begin another one.');
    return run.value.tagIds.includes(tagId) ? run : fail('not-in-run', 'The tag is not part of this run.', 'Begin a run with it.');
  }

  async #entries(run: Run): Promise<readonly RunEntry[]> {
    return entriesOf(run, await this.#stepsOf(run.id));
  }

  async #stepsOf(id: string): Promise<TrailStep[]> {
    const known = this.#steps.get(id);
    if (known) return known;
    const steps = [...(await this.#trail.stepsOf(id))];
    this.#steps.set(id, steps);
    return steps;
  }

  async #add(run: Run, tagId: string | null, who: string, what: StepContent): Promise<void> {
    const steps = await this.#stepsOf(run.id);
    const step: TrailStep = { runId: run.id, tagId, who, at: isoTime(this.#clock), what };
    await this.#trail.addSteps([step]);
    steps.push(step);
  }
}

/** Its device, and the groups that it stands in. */
export function whereOf(model: ProjectModel, tag: Tag): string {
  const device = model.get('device', deviceIdOf(tag) ?? '')?.name;
  const groups: string[] = [];
  for (let group = model.get('group', tag.groupId ?? ''); group; group = model.get('group', group.parentId ?? '')) groups.unshift(group.name);
  return [device ?? tag.source.kind, ...groups].join(' · ');
}
