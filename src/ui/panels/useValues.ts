'use client';
/** Values for elements: of the machine, made up, or none; and what expressions over them come to. */
import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import type { Input } from '@/core/expression/evaluate.ts';
import type { ValueKind, Value } from '@/core/expression/tree.ts';
import { isBound, type Live } from '@/core/panel/bound.ts';
import { elementText, shownOf } from '@/core/panel/elementText.ts';
import type { Shown } from '@/core/panel/elementKind.ts';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { formulaOf, RunningFormula } from '@/core/panel/formula.ts';
import { shownOn } from '@/core/panel/shownOn.ts';
import type { SceneTag } from '@/core/panel/scene.ts';
import type { Element } from '@/core/project/entities.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { decimalNumber, isDecimal } from '@/core/value/decimal.ts';
import { formatValue, fromJson } from '@/core/value/engineering.ts';
import { useLive } from '../live/liveHooks.ts';
import type { TagView } from '../live/liveClient.ts';
import { madeUp, seedOf } from './madeUp.ts';
import { useStage } from './SceneContext.tsx';

const MADE_EVERY_MS = 500;

/** The values of tags as they may be shown now; a new array only when one of them is new. */
export function useTagViews(ids: readonly string[]): readonly (TagView | null)[] {
  const live = useLive();
  const { values, scene } = useStage();
  const key = ids.join(' ');
  const cache = useRef<{ key: string; views: readonly (TagView | null)[] }>({ key: '', views: [] });
  const subscribe = useCallback(
    (listener: () => void) => {
      const list = key === '' ? [] : key.split(' ');
      if (values === 'none' || list.length === 0) return () => undefined;
      if (values === 'made') {
        const timer = setInterval(listener, MADE_EVERY_MS);
        return () => clearInterval(timer);
      }
      const ends = list.map((id) => live.onTag(id, listener));
      return () => ends.forEach((end) => end());
    },
    [live, key, values],
  );
  const read = (): readonly (TagView | null)[] => {
    const now = values === 'made' ? Math.floor(Date.now() / MADE_EVERY_MS) * MADE_EVERY_MS : 0;
    const stamp = `${values} ${now} ${key}`;
    const views = ids.map((id): TagView | null => {
      if (values === 'none') return null;
      if (values === 'live') return live.view(id);
      const def = scene.tag(id)?.def;
      return def ? (cache.current.key === stamp ? (cache.current.views[ids.indexOf(id)] ?? null) : madeUp(id, def, seedOf(id), now)) : null;
    });
    const known = cache.current;
    if (known.key === stamp && known.views.length === views.length && views.every((view, i) => view === known.views[i])) return known.views;
    cache.current = { key: stamp, views };
    return views;
  };
  return useSyncExternalStore(subscribe, read, read);
}

const NO_IDS: readonly string[] = [];

/** What an expression comes to now. */
export interface Came {
  /** Null where it has no value. */
  readonly value: Value | null;
  /** Some input is not good. */
  readonly isDoubted: boolean;
  /** Why it has none; empty where it has one. */
  readonly why: string;
  readonly unit: string | null;
}
const NOTHING: Came = { value: null, isDoubted: false, why: '', unit: null };

export function useFormula(expression: string | null, wanted: ValueKind | null): Came | null {
  const live = useLive();
  const { scene, values } = useStage();
  const running = useMemo(() => {
    if (expression === null || expression.trim() === '') return null;
    const made = formulaOf(expression, wanted, scene.tag);
    return made.ok ? { formula: new RunningFormula(made.value), problem: '' } : { formula: null, problem: made.problem.message };
  }, [expression, wanted, scene]);
  const inputs = running?.formula?.formula.program.inputs ?? NO_IDS;
  const views = useTagViews(inputs);
  // What goes by time is looked at again and again.
  const [tick, setTick] = useState(0);
  const usesTime = running?.formula?.formula.program.usesTime ?? false;
  useEffect(() => {
    if (!usesTime) return;
    const timer = setInterval(() => setTick((n) => n + 1), 200);
    return () => clearInterval(timer);
  }, [usesTime]);
  return useMemo(() => {
    if (!running) return null;
    if (!running.formula) return { ...NOTHING, why: running.problem };
    if (values === 'none') return { ...NOTHING, why: 'no values are shown' };
    const outcome = running.formula.next((id) => inputOf(views[inputs.indexOf(id)] ?? null), live.now());
    const { unit } = running.formula.formula;
    if (outcome.kind === 'value') return { value: outcome.value, isDoubted: outcome.doubted !== null, why: '', unit };
    const bad = outcome.kind === 'input' ? scene.tag(inputs[outcome.input] ?? '') : null;
    return { ...NOTHING, unit, why: outcome.kind === 'none' ? outcome.message : `${bad?.name ?? 'a tag'} has no value` };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a tick is a new moment for what goes by time
  }, [running, views, inputs, scene, values, live, tick]);
}

function inputOf(view: TagView | null): Input {
  const eng = view?.sample?.eng && view.level !== 'bad' ? fromJson(view.sample.eng) : null;
  if (!view || !eng?.ok) return { value: null, isDoubted: false };
  return { value: isDecimal(eng.value) ? decimalNumber(eng.value) : eng.value, isDoubted: view.level === 'uncertain' };
}

export interface Condition {
  /** Null while it is not known. */
  readonly holds: boolean | null;
  /** Some value that it goes by is not good. */
  readonly isDoubted: boolean;
  readonly why: string;
}

export function useCondition(bound: unknown): Condition | null {
  const came = useFormula(isBound(bound) ? bound.by : null, 'boolean');
  return came && { holds: came.value === null ? null : came.value === true, isDoubted: came.isDoubted, why: came.why };
}

/** A number that may follow something; null where there is none. */
export function useNumber(live: Live<number> | null): number | null {
  const came = useFormula(isBound(live) ? live.by : null, 'number');
  return isBound(live) ? (came === null || came.value === null ? null : Number(came.value)) : live;
}

/** What an element draws of its value. */
export interface Drawn {
  readonly tag: SceneTag | null;
  readonly view: TagView | null;
  /** As the tag has it, and as it is shown here. */
  readonly def: SignalDefinition | null;
  readonly shownDef: SignalDefinition | null;
  readonly shown: Shown | null;
  readonly text: string;
  readonly unit: string;
  readonly level: 'good' | 'uncertain' | 'bad';
  readonly why: string;
}

/** The expression that an element shows instead of its tag; null where it has none. */
export function valueExpression({ settings: { of } }: Element): string | null {
  return isBound(of) && of.by.trim() !== '' ? of.by : null;
}

export function useExpressionDrawn(element: Element): Drawn {
  const { texts, values } = useStage();
  return ofFormula(element, useFormula(valueExpression(element), null), texts, values === 'none');
}

export function useTagDrawn(element: Element): Drawn {
  const { scene, texts, values } = useStage();
  const { tagId } = element;
  const [view = null] = useTagViews(useMemo(() => (tagId === null ? NO_IDS : [tagId]), [tagId]));
  const tag = tagId === null ? null : scene.tag(tagId);
  const def = tag?.def ?? null;
  const raw = view?.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
  const seen = view?.sample && def ? { raw: raw?.ok && !isDecimal(raw.value) ? raw.value : null, text: view.text, level: view.level } : null;
  const shown = seen && def ? shownOf(element, def, seen, texts) : null;
  const shownDef = def && shownOn(def, texts.units, element.settings);
  return {
    tag,
    view,
    def,
    shownDef,
    shown,
    text: elementText(element, shown, texts),
    unit: shownDef?.unit ?? '',
    level: values === 'none' ? 'good' : tag ? (view?.level ?? 'bad') : element.tagId === null && !needsTag(element) ? 'good' : 'bad',
    why: tag ? tag.problem || (view?.why ?? '') : element.tagId === null ? 'it has no tag' : 'its tag is gone',
  };
}

/** It stands for one value: without a tag there is none. */
function needsTag({ kind }: Element): boolean {
  return ELEMENTS[kind].showsText && !ELEMENTS[kind].standsAlone;
}

function ofFormula(element: Element, came: Came | null, texts: Parameters<typeof elementText>[2], isEmpty: boolean): Drawn {
  const { decimals, unit: own } = element.settings;
  const value = came?.value ?? null;
  const level = value === null ? 'bad' : came?.isDoubted ? 'uncertain' : 'good';
  const shown: Shown | null =
    value === null
      ? null
      : {
          text: formatValue(value, typeof decimals === 'number' && typeof value === 'number' ? decimals : null),
          level,
          number: typeof value === 'boolean' ? (value ? 1 : 0) : typeof value === 'string' ? null : Number(value),
          isState: typeof value === 'boolean',
        };
  return {
    tag: null,
    view: null,
    def: null,
    shownDef: null,
    shown,
    text: elementText(element, shown, texts),
    unit: typeof own === 'string' && own !== '' ? own : (came?.unit ?? ''),
    level: isEmpty ? 'good' : level,
    why: came?.why ?? '',
  };
}
