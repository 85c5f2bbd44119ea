/** Sets of values: the values of an element's tags are stored as they are, and written back as one, under the guard like any other write. */
import { v7 as uuid } from 'uuid';
import { settingsOf } from '@/core/panel/kinds.ts';
import { LONGEST_SET_NAME, MOST_SETS, type SetAct, type SetWritten, type StoredSet, type StoredValue } from '@/core/panel/storedSet.ts';
import type { Element } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { exactText } from '@/core/signal.ts';
import { fromJson, toJson } from '@/core/value/engineering.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { SetStore } from '@/store/setStore.ts';
import type { PanelService } from '../panelService.ts';
import type { WriteService } from '../writeService.ts';

export interface SetRequest {
  readonly panelId: string;
  readonly elementId: string;
  readonly act: SetAct;
  /** What it is stored under. */
  readonly name?: string | undefined;
  /** The set that is written or removed, or that a stored one takes the place of. */
  readonly setId?: string | undefined;
  readonly session?: string | undefined;
  readonly subject?: number | undefined;
}

export interface SetRuntime {
  readonly panels: PanelService;
  readonly writes: Pick<WriteService, 'writeAll'>;
  readonly engine: Pick<Engine, 'live'>;
  readonly store: Pick<SetStore, 'list' | 'keep' | 'remove'>;
  readonly clock: Clock;
}

interface Member {
  /** By which its value is stored. */
  readonly key: string;
  readonly tagId: string;
  readonly name: string;
}

const GONE_SET = fail('gone', 'This set is not there (any more).', 'Look at the list again.');

export class ValueSets {
  readonly #model: ProjectModel;
  readonly #runtime: SetRuntime;
  /** One after the other: two that are stored under one name at once are not both the first. */
  #last: Promise<unknown> = Promise.resolve();

  constructor(model: ProjectModel, runtime: SetRuntime) {
    this.#model = model;
    this.#runtime = runtime;
  }

  async list(panelId: string, elementId: string): Promise<Result<readonly StoredSet[]>> {
    const element = this.#model.get('element', elementId);
    if (element?.kind !== 'sets' || this.#model.get('page', element.pageId)?.panelId !== panelId)
      return fail('not-here', 'This element has no sets.', 'Look at the panel again.');
    return ok(await this.#runtime.store.list(settingsOf('sets', element).name));
  }

  act(request: SetRequest): Promise<Result<SetWritten>> {
    const done = this.#last.then(() => this.#act(request));
    this.#last = done.catch(() => undefined);
    return done;
  }

  async #act({ panelId, elementId, act, name = '', setId, session, subject }: SetRequest): Promise<Result<SetWritten>> {
    const { panels, store } = this.#runtime;
    const operated = panels.operated(panelId, elementId, session, subject);
    if (!operated.ok) return operated;
    const { element, by } = operated.value;
    const pattern = this.#model.get('element', elementId);
    if (element.kind !== 'sets' || pattern?.kind !== 'sets') return fail('not-here', 'This element has no sets.');
    const { name: list, canStore } = settingsOf('sets', element);
    if (act !== 'load' && !canStore) return fail('not-here', 'Sets are not stored or removed here.');
    const all = await store.list(list);
    const set = all.find(({ id }) => id === setId) ?? null;
    if (act === 'store') return this.#store(list, all, { name: name.trim(), setId, by, members: this.#members(element, pattern) });
    if (!set) return GONE_SET;
    if (act === 'remove') {
      await store.remove(set.id);
      return ok({ done: 0, of: 0, failed: [] });
    }
    return this.#load(set, this.#members(element, pattern), by);
  }

  #members(element: Element, pattern: Element): readonly Member[] {
    const keys = settingsOf('sets', pattern).members;
    return settingsOf('sets', element).members.map((tagId, i) => ({
      key: keys[i] ?? tagId,
      tagId,
      name: this.#model.get('tag', tagId)?.name ?? 'A tag that is gone',
    }));
  }

  /** Only values that are good are stored, and only all of them. */
  async #store(
    list: string,
    all: readonly StoredSet[],
    {
      name,
      setId,
      by,
      members,
    }: { readonly name: string; readonly setId: string | undefined; readonly by: string; readonly members: readonly Member[] },
  ): Promise<Result<SetWritten>> {
    if (name === '' || name.length > LONGEST_SET_NAME)
      return fail('name', `A set has a name of 1 to ${LONGEST_SET_NAME} characters.`, undefined, 'name');
    if (members.length === 0) return fail('empty', 'The element has no tags.', 'Give it some in Panels.');
    const same = all.find((one) => one.name.toLowerCase() === name.toLowerCase());
    if (same && same.id !== setId)
      return fail('taken', `“${same.name}” is there already.`, 'Choose it, and store into it, or take another name.', 'name');
    if (!same && all.length >= MOST_SETS) return fail('too-many', `There are ${MOST_SETS} sets already.`, 'Remove some that nobody needs.');
    const values: Record<string, StoredValue> = {};
    for (const { key, tagId, name: tagName } of members) {
      const sample = this.#runtime.engine.live.get(tagId);
      if (sample?.quality.level !== 'good' || sample.eng === null)
        return fail(
          'not-good',
          `${tagName} has no good value: ${sample ? qualityInWords(sample.quality) : 'it was not read yet'}.`,
          'Nothing was stored.',
        );
      values[key] = { text: sample.text, unit: sample.signal?.def.unit ?? '', value: toJson(sample.eng) };
    }
    await this.#runtime.store.keep(list, { id: uuid(), name, at: isoTime(this.#runtime.clock), by, values });
    return ok({ done: members.length, of: members.length, failed: [] });
  }

  /** Where one of them cannot be written, none is. */
  async #load(set: StoredSet, members: readonly Member[], by: string): Promise<Result<SetWritten>> {
    const writes: { readonly id: string; readonly tagId: string; readonly value: string }[] = [];
    for (const { key, tagId, name } of members) {
      const stored = set.values[key];
      const signal = this.#model.effective(tagId);
      if (!stored) return fail('no-value', `“${set.name}” has no value of ${name}.`, 'Nothing was written. Store the set again.');
      if (!signal.ok) return signal;
      const { def } = signal.value;
      if (def.unit !== stored.unit)
        return fail(
          'unit',
          `${name} was stored in ${stored.unit || 'no unit'}, and is in ${def.unit || 'no unit'} now.`,
          'Nothing was written: the number would mean something else. Store the set again.',
        );
      const value = fromJson(stored.value);
      if (!value.ok) return value;
      writes.push({ id: uuid(), tagId, value: exactText(def, value.value) });
    }
    const done = await this.#runtime.writes.writeAll({ writes, writer: 'panel', by });
    if (!done.ok) {
      const at = /^writes\[(\d+)\]/.exec(done.problem.place ?? '')?.[1];
      const name = at === undefined ? undefined : members[Number(at)]?.name;
      return fail(
        done.problem.code,
        `${name === undefined ? '' : `${name}: `}${done.problem.message}`,
        `Nothing was written. ${done.problem.remedy ?? ''}`.trim(),
      );
    }
    const failed = done.value.flatMap((one, i) => {
      const why = one.ok ? (one.value.state === 'done' ? null : one.value.sentence) : one.problem.message;
      return why === null ? [] : [`${members[i]?.name ?? ''}: ${why}`];
    });
    return ok({ done: writes.length - failed.length, of: writes.length, failed });
  }
}
