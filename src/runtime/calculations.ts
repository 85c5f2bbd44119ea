/**
 * What expressions of tags come to: values, and by how much addresses are moved. What came in together is followed
 * together: each expression is evaluated once, after all that it uses, so that nothing is ever made of one value that is
 * new and one that is old.
 */
import { Evaluation, type Input, type Program } from '@/core/expression/evaluate.ts';
import type { Value } from '@/core/expression/tree.ts';
import { decimalNumber, isDecimal } from '@/core/value/decimal.ts';
import type { EngValue } from '@/core/value/engineering.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { LiveTable } from './liveTable.ts';

/** Stands for a device where one is named by its id. */
export const CALCULATED = 'calculated';

/** What an expression gave, or why it gave nothing. @property doubted why its value is uncertain */
export type Told =
  | { readonly kind: 'value'; readonly value: Value; readonly doubted: string | undefined }
  | { readonly kind: 'none'; readonly reason: 'no-result' | 'input-bad'; readonly why: string };

/** What a tag follows by an expression. */
export interface Followed {
  /** What it was made of: a tag that comes with the same again is no news. */
  readonly of: object;
  readonly program: Program;
  readonly periodMs: number;
  /** Hears of each evaluation, also where it gave the same. */
  readonly tell: (told: Told, now: number) => void;
}

interface Calculated extends Followed {
  readonly evaluation: Evaluation;
  /** Written over at each evaluation. */
  readonly inputs: { value: Value | null; isDoubted: boolean }[];
  rank: number;
}

/** What is not there is bad. */
const NOTHING: Input = { value: null, isDoubted: false };

export class Calculations {
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #pathOf: (tagId: string) => string;
  readonly #tags = new Map<string, Calculated>();
  readonly #users = new Map<string, Set<Calculated>>();
  /** What has to be evaluated, by rank: a tag stands above all that it uses. */
  #dirty: Set<Calculated>[] = [];
  #isWaiting = false;
  #areRanksOld = false;
  #stopListening: (() => void) | null = null;
  #stopTicking: (() => void) | null = null;

  constructor(live: LiveTable, clock: Clock, pathOf: (tagId: string) => string) {
    this.#live = live;
    this.#clock = clock;
    this.#pathOf = pathOf;
  }

  /** Takes a tag that is new or changed. What its functions have kept begins anew where its expression is another one. */
  take(tagId: string, followed: Followed): void {
    const before = this.#tags.get(tagId);
    if (before?.of === followed.of) return;
    if (before) this.#forget(before);
    const { program } = followed;
    const isSame = before !== undefined && JSON.stringify(before.program.tree) === JSON.stringify(program.tree);
    const calculated: Calculated = {
      ...followed,
      program: isSame ? before.program : program,
      evaluation: isSame ? before.evaluation : new Evaluation(program),
      inputs: program.inputs.map(() => ({ ...NOTHING })),
      rank: 0,
    };
    this.#tags.set(tagId, calculated);
    for (const input of calculated.program.inputs) {
      const users = this.#users.get(input);
      if (users) users.add(calculated);
      else this.#users.set(input, new Set([calculated]));
    }
    this.#areRanksOld = true;
    this.#stopListening ??= this.#live.onSample((id) => this.#changed(id));
    this.#mark(calculated);
    this.#tick();
  }

  remove(tagId: string): void {
    const calculated = this.#tags.get(tagId);
    if (!calculated) return;
    this.#forget(calculated);
    this.#tags.delete(tagId);
    if (this.#tags.size > 0) return;
    this.close();
  }

  close(): void {
    this.#stopListening?.();
    this.#stopListening = null;
    this.#stopTicking?.();
    this.#stopTicking = null;
  }

  #forget(calculated: Calculated): void {
    for (const set of this.#dirty) set.delete(calculated);
    for (const input of calculated.program.inputs) {
      const users = this.#users.get(input);
      users?.delete(calculated);
      if (users?.size === 0) this.#users.delete(input);
    }
  }

  #changed(tagId: string): void {
    const users = this.#users.get(tagId);
    if (users) for (const user of users) this.#mark(user);
  }

  #mark(calculated: Calculated): void {
    this.#dirtyAt(calculated.rank).add(calculated);
    if (this.#isWaiting) return;
    this.#isWaiting = true;
    // After all that comes in the same turn.
    queueMicrotask(() => this.#evaluate());
  }

  #dirtyAt(rank: number): Set<Calculated> {
    while (this.#dirty.length < rank) this.#dirty.push(new Set());
    return (this.#dirty[rank] ??= new Set());
  }

  #evaluate(): void {
    if (this.#areRanksOld) this.#rank();
    const now = this.#clock.now();
    for (let rank = 0; rank < this.#dirty.length; rank++) {
      const dirty = this.#dirty[rank];
      if (!dirty || dirty.size === 0) continue;
      // What it changes stands further up.
      this.#dirty[rank] = new Set();
      for (const calculated of dirty) this.#follow(calculated, now);
    }
    this.#isWaiting = false;
  }

  #follow({ program, evaluation, inputs, tell }: Calculated, now: number): void {
    for (let i = 0; i < inputs.length; i++) {
      const input = inputs[i];
      const newest = this.#live.value(program.inputs[i] ?? '');
      if (!input) continue;
      input.value = newest?.eng === null || newest === null || newest.quality.level === 'bad' ? null : plainValue(newest.eng);
      input.isDoubted = newest?.quality.level === 'uncertain';
    }
    const outcome = evaluation.next(inputs, now);
    if (outcome.kind === 'none') return tell({ kind: 'none', reason: 'no-result', why: outcome.message }, now);
    if (outcome.kind === 'input') return tell({ kind: 'none', reason: 'input-bad', why: this.#why(program.inputs[outcome.input] ?? '') }, now);
    const doubted = outcome.doubted === null ? undefined : this.#why(program.inputs[outcome.doubted] ?? '');
    tell({ kind: 'value', value: outcome.value, doubted }, now);
  }

  #why(tagId: string): string {
    const newest = this.#live.value(tagId);
    return `${this.#pathOf(tagId)}: ${newest ? qualityInWords(newest.quality) : 'is not there'}`;
  }

  /** Each stands one above the highest that it uses. Circles are refused before they get here. */
  #rank(): void {
    this.#areRanksOld = false;
    const waiting = new Set<Calculated>();
    for (const set of this.#dirty) for (const calculated of set) waiting.add(calculated);
    const ranked = new Set<string>();
    const rankOf = (tagId: string): number => {
      const calculated = this.#tags.get(tagId);
      if (!calculated) return -1;
      if (ranked.has(tagId)) return calculated.rank;
      ranked.add(tagId);
      let highest = -1;
      for (const input of calculated.program.inputs) highest = Math.max(highest, rankOf(input));
      calculated.rank = highest + 1;
      return calculated.rank;
    };
    for (const tagId of this.#tags.keys()) rankOf(tagId);
    this.#dirty = [];
    for (const calculated of waiting) this.#dirtyAt(calculated.rank).add(calculated);
  }

  /** Expressions that change with time alone are evaluated at the period of their tag. */
  #tick(): void {
    if (this.#stopTicking) return;
    const periods = [...this.#tags.values()].flatMap(({ program, periodMs }) => (program.usesTime ? [periodMs] : []));
    if (periods.length === 0) return;
    this.#stopTicking = this.#clock.after(Math.min(...periods), () => {
      this.#stopTicking = null;
      for (const calculated of this.#tags.values()) if (calculated.program.usesTime) this.#mark(calculated);
      this.#tick();
    });
  }
}

/** What an expression sees of an engineering value. */
export function plainValue(eng: EngValue): Value {
  if (!isDecimal(eng)) return eng;
  return eng.exponent === 0 ? eng.digits : decimalNumber(eng);
}
