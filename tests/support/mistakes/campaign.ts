/**
 * Mistakes that a controller and a panel written in another language make by themselves (controller.py), found by looking at a few values:
 * how often the true cause comes first. A cause counts as found where the way that is offered shows what the mistaken party shows for memory
 * that nobody has seen before.
 */
import '@/core/units/ucumUnits.ts';
import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import type { Cells } from '@/core/check/mistakes/mistakeSpace.ts';
import { seenNumber, type Seen } from '@/core/check/mistakes/observation.ts';
import { investigate, type Looked } from '@/core/check/mistakes/investigation.ts';
import { shownBy, type Sight, type Way } from '@/core/check/mistakes/way.ts';
import type { Range } from '@/core/ranges/range.ts';
import { parseFor, planWrite, unjudged, type SignalDefinition } from '@/core/signal.ts';
import { AS_IS, type Scale } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';

const CELLS: Cells = { bytes: 2, name: 'register' };
/** No more values than a person would look at. */
const PATIENCE = 6;
const UNSEEN = 24;

interface Setup {
  readonly type: string;
  readonly order: string;
  readonly bit: number | null;
  readonly scale: readonly [number, number, number, number] | null;
  readonly ten: number;
  readonly unit: string;
  readonly decimals: number;
  readonly low: number | null;
  readonly high: number | null;
}
interface Case {
  readonly id: number;
  readonly how: 'single' | 'double' | 'outside' | 'right';
  readonly side: 'ours' | 'panel';
  readonly mistakes: readonly string[];
  readonly ours: Setup;
  readonly tagAt: number;
}

export interface Outcome {
  readonly how: Case['how'];
  readonly mistakes: readonly string[];
  /** Place of the true cause among the explanations, from 1; 0 where it is not among them. */
  readonly rank: number;
  readonly explanations: number;
  readonly agrees: boolean;
  readonly values: number;
  readonly slowestMs: number;
  /** To look into one that was missed. */
  readonly told: string;
}

/** Speaks with the other party, a line each way. */
class OtherParty {
  readonly #process = spawn('python3', [join(process.cwd(), 'tests/support/mistakes/controller.py')], { stdio: ['pipe', 'pipe', 'inherit'] });
  readonly #lines = createInterface({ input: this.#process.stdout })[Symbol.asyncIterator]();

  async ask<T>(question: object): Promise<T> {
    this.#process.stdin.write(`${JSON.stringify(question)}\n`);
    const next: IteratorResult<string, undefined> = await this.#lines.next();
    if (next.done) throw new Error('the other party has ended: is python3 there?');
    return JSON.parse(next.value) as T;
  }

  close(): void {
    this.#process.stdin.end();
  }
}

export async function campaign(count: number, seed: number): Promise<readonly Outcome[]> {
  const party = new OtherParty();
  try {
    const { cases } = await party.ask<{ readonly cases: readonly Case[] }>({ make: count, seed });
    const random = bytesFrom(seed);
    const outcomes: Outcome[] = [];
    for (const each of cases) outcomes.push(await solved(party, each, random));
    return outcomes;
  } finally {
    party.close();
  }
}

/** Tags as they are made for a campaign, with what may be tried at each. */
export async function tellingSetups(count: number, seed: number) {
  const party = new OtherParty();
  try {
    const { cases } = await party.ask<{ readonly cases: readonly Case[] }>({ make: count, seed });
    return cases.map(({ ours }) => ({ def: definitionOf(ours), cells: CELLS, within: withinOf(ours) }));
  } finally {
    party.close();
  }
}

function withinOf({ low, high }: Setup): Range | null {
  return low === null || high === null ? null : { low, high };
}

async function solved(party: OtherParty, each: Case, random: (size: number) => Uint8Array): Promise<Outcome> {
  const def = definitionOf(each.ours);
  const within = withinOf(each.ours);
  const looked: Looked[] = [];
  let slowestMs = 0;
  for (;;) {
    const begun = performance.now();
    const found = investigate(def, CELLS, within, looked, each.side === 'ours' ? 'controller' : 'mapping');
    slowestMs = Math.max(slowestMs, performance.now() - begun);
    if (looked.length > 0 && (found.next === null || looked.length === PATIENCE)) {
      let rank = 0;
      for (const [i, { way }] of found.explanations.entries())
        if (rank === 0 && (await isTrue(party, each, way, def, random))) rank = i < found.undecided ? 1 : i + 2 - found.undecided;
      const told = [
        `${each.how} ${each.side} ${each.mistakes.join('+')} ${each.ours.type} ${each.ours.order} ${String(each.ours.scale)} ten ${each.ours.ten} ${each.ours.unit}`,
        ...looked.map(({ tried, seen }) => `  tried ${tried} seen ${seen.kind === 'number' ? seen.text : seen.kind}`),
        ...found.explanations.map(
          ({ mistakes, cost, alike }) => `  ${mistakes.map(({ words }) => words).join(' and ')} (${cost.toFixed(1)}, ${alike.length} alike)`,
        ),
      ].join('\n');
      return {
        how: each.how,
        mistakes: each.mistakes,
        rank,
        explanations: found.explanations.length,
        agrees: found.agrees,
        values: looked.length,
        slowestMs,
        told,
      };
    }
    const tried = found.next?.text;
    if (tried === undefined) throw new Error(`nothing to try at ${each.ours.type}`);
    const { memory, seen } = await party.ask<{ readonly memory: string; readonly seen: string }>(
      each.side === 'ours' ? { case: each.id, drive: tried } : { case: each.id, bytes: hex(bytesFor(def, tried)) },
    );
    looked.push({ tried, sight: sightOf(memory, each, def), seen: seenAs(def, seen) });
  }
}

/** Whether a way shows what the mistaken party shows, wherever that shows anything. */
async function isTrue(party: OtherParty, each: Case, way: Way, def: SignalDefinition, random: (size: number) => Uint8Array): Promise<boolean> {
  const memories = Array.from({ length: UNSEEN }, () => random(40));
  const { shown } = await party.ask<{ readonly shown: readonly (number | null)[] }>({ case: each.id, read: memories.map(hex) });
  return shown.every((theirs, i) => {
    const ours = shownBy(way, sightOf(hex(memories[i] ?? new Uint8Array()), each, def)).number;
    if (theirs === null || ours === null) return theirs === null;
    return Math.abs(ours - theirs) <= Math.abs(theirs) * 1e-6 + 1e-30;
  });
}

function definitionOf({ type, order, bit, scale, ten, unit, decimals }: Setup): SignalDefinition {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  const [rawA, rawB, engA, engB] = scale ?? [0, 0, 0, 0];
  const line: Scale = scale ? { kind: 'linear', rawA, engA, rawB, engB } : ten === 0 ? AS_IS : { kind: 'power', exponent: ten };
  const isNumber = parsed.value.kind === 'integer' || parsed.value.kind === 'real';
  return { type: parsed.value, order, bit, scale: line, unit, decimals: isNumber ? decimals : null, range: null };
}

function bytesFor(def: SignalDefinition, text: string): Uint8Array {
  const wanted = parseFor(def, text);
  const plan = wanted.ok ? planWrite(unjudged(def), wanted.value) : wanted;
  if (!plan.ok) throw new Error(plan.problem.message);
  return plan.value.bytes;
}

function sightOf(memory: string, { tagAt }: Case, def: SignalDefinition): Sight {
  const bytes = Uint8Array.from(memory.match(/../g) ?? [], (pair) => parseInt(pair, 16));
  const size = def.type.kind === 'boolean' ? 2 : def.type.bytes;
  return { wire: { kind: 'bytes', bytes: bytes.subarray(tagAt, tagAt + size) }, around: { bytes, at: tagAt } };
}

function seenAs(def: SignalDefinition, text: string): Seen {
  if (def.type.kind === 'boolean') return { kind: 'state', value: text === 'on' };
  return seenNumber(text) ?? { kind: 'nothing' };
}

function hex(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}

function bytesFrom(seed: number): (size: number) => Uint8Array {
  let state = seed * 2654435761 + 1;
  return (size) => Uint8Array.from({ length: size }, () => ((state = (Math.imul(state, 1664525) + 1013904223) | 0) >>> 16) & 0xff);
}

export interface Score {
  readonly cases: number;
  readonly first: number;
  readonly amongThree: number;
  readonly none: number;
  readonly wronglyBlamed: number;
}

export function scoreOf(outcomes: readonly Outcome[], how: Case['how']): Score {
  const of = outcomes.filter((each) => each.how === how);
  return {
    cases: of.length,
    first: of.filter(({ rank }) => rank === 1).length,
    amongThree: of.filter(({ rank }) => rank >= 1 && rank <= 3).length,
    none: of.filter(({ explanations, agrees }) => explanations === 0 && !agrees).length,
    wronglyBlamed: of.filter(({ agrees }) => !agrees).length,
  };
}
