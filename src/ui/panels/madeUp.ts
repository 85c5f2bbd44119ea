/** Values for a page that is arranged without a machine: each tag goes up and down between its ends. */
import { endsOf } from '@/core/panel/shownOn.ts';
import { planWrite, textOf, engineeringOf, type SignalDefinition } from '@/core/signal.ts';
import { qualityOf } from '@/core/value/quality.ts';
import { toJson, type EngValue } from '@/core/value/engineering.ts';
import type { TagView } from '../live/liveClient.ts';

const CYCLE_MS = 20_000;

/** @param seed makes tags differ; @param now in milliseconds */
export function madeUp(tagId: string, def: SignalDefinition, seed: number, now: number): TagView {
  const turn = (now / CYCLE_MS + seed) % 1;
  const plan = planWrite(def, valueAt(def, turn));
  const raw = plan.ok ? plan.value.raw : null;
  const eng = raw === null ? null : engineeringOf(def, raw);
  const level = raw === null ? 'bad' : 'good';
  return {
    sample: {
      tagId,
      n: 0,
      at: now,
      roundTripMs: 0,
      sourceAt: null,
      freshForMs: null,
      wire: null,
      raw: raw === null ? null : toJson(raw),
      eng: eng === null ? null : toJson(eng),
      text: textOf(def, eng),
      quality: raw === null ? qualityOf('settings') : { level: 'good', reason: null },
      broken: null,
    },
    level,
    reason: raw === null ? 'settings' : null,
    why: '',
    text: textOf(def, eng),
    recent: [],
  };
}

function valueAt(def: SignalDefinition, turn: number): EngValue {
  if (def.type.kind === 'boolean') return turn < 0.5;
  if (def.type.kind === 'text') return 'Text'.slice(0, def.type.room);
  if (def.names && def.names.length > 0) return def.names[Math.floor(turn * def.names.length)]?.value ?? 0;
  const { low, high } = endsOf(def) ?? { low: 0, high: 100 };
  const value = low + (high - low) * (turn < 0.5 ? 2 * turn : 2 - 2 * turn);
  return def.type.kind === 'integer' && def.scale.kind === 'none' ? Math.round(value) : Number(value.toFixed(def.decimals ?? 2));
}

/** Between 0 and 1, the same for the same tag. */
export function seedOf(tagId: string): number {
  let seed = 0;
  for (const character of tagId) seed = (seed * 31 + character.charCodeAt(0)) % 997;
  return seed / 997;
}
