'use client';
/** What lists and lines of alarms share: alarms of the panel, their words, their marks. */
import { useEffect, useSyncExternalStore } from 'react';
import { inOrder, NO_ALARMS, passes, type AlarmLine, type AlarmsNow } from '@/core/alarm/alarmLine.ts';
import { isCalling, STATE_WORDS } from '@/core/alarm/alarmState.ts';
import { textParts } from '@/core/panel/bound.ts';
import { alarmFilter } from '@/core/panel/panelAlarms.ts';
import type { Scene } from '@/core/panel/scene.ts';
import type { Element } from '@/core/project/entities.ts';
import type { Priority } from '@/core/project/kinds/priorities.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { useChannelState, useLive } from '../../live/liveHooks.ts';
import { dayAndTime, timeOfDay } from '../../parts/moment.ts';
import { useStage } from '../SceneContext.tsx';

/** Null until they have come. @param panelId null for all of the project */
export function useAlarmsNow(panelId: string | null): AlarmsNow | null {
  const live = useLive();
  useEffect(() => live.wantAlarms(panelId), [live, panelId]);
  return useSyncExternalStore(
    (listener) => live.onChange(listener),
    () => live.alarms,
    () => null,
  );
}

export interface ShownAlarms extends AlarmsNow {
  /** They are as they stand now: the server answers, and they have come. */
  readonly isLive: boolean;
}

/** Those that an element shows, what calls loudest first. */
export function useAlarms(element: Element): ShownAlarms {
  const { scene, values } = useStage();
  const now = useAlarmsNow(scene.panel.id);
  const channel = useChannelState();
  const filter = alarmFilter(element);
  const { lines, unknown, problem } = now ?? NO_ALARMS;
  const isShown = (one: Pick<AlarmLine, 'priority' | 'group'>): boolean => filter !== null && values !== 'none' && passes(one, filter);
  return { lines: inOrder(lines.filter(isShown)), unknown: unknown.filter(isShown), problem, isLive: channel === 'live' && now !== null };
}

/** In the language of the scene, with the values that there were when it came. */
export function alarmText({ template, values }: Pick<AlarmLine, 'template' | 'values'>, { wordTemplate }: Pick<Scene, 'wordTemplate'>): string {
  return textParts(wordTemplate(template))
    .map(({ text, by }) => (by === null ? text : (values[by] ?? NO_VALUE_TEXT)))
    .join('');
}

const LOOKS: Readonly<Record<Priority, string>> = {
  critical: 'bg-error text-error-content border-error',
  high: 'bg-warning text-warning-content border-warning',
  medium: 'is-look border-warning',
  low: 'quiet border-base-300',
};

/** By word as well as by colour. */
export function PriorityMark({ priority, say }: { readonly priority: Priority } & Pick<Scene, 'say'>) {
  return (
    <span className={`inline-flex h-6 w-20 shrink-0 items-center justify-center rounded border-2 text-[12px] font-semibold ${LOOKS[priority]}`}>
      {say(priority)}
    </span>
  );
}

export function stateText({ state, shelved, ackedBy, unknown }: AlarmLine, say: Scene['say']): string {
  const until = shelved && state === 'shelved' ? ` ${say('until {1}', timeText(shelved.until))}: ${shelved.why}` : '';
  const by = ackedBy !== '' && (state === 'acked' || state === 'latchedAcked') ? ` (${ackedBy})` : '';
  return `${say(STATE_WORDS[state])}${by}${until}${unknown === '' ? '' : ` · ◑ ${say('not known now')}`}`;
}

/** To the second today, with its day before. */
export function timeText(at: number | string | null): string {
  if (at === null) return '';
  return new Date(at).toDateString() === new Date().toDateString() ? timeOfDay(at) : dayAndTime(at);
}

export const callingIn = (lines: readonly AlarmLine[]): readonly AlarmLine[] => lines.filter(({ state }) => isCalling(state));

/** Of those that are not known: how many, and why of the first. */
export function unknownText(unknown: AlarmsNow['unknown'], scene: Pick<Scene, 'say' | 'wordTemplate'>): string {
  const [first] = unknown;
  if (!first) return '';
  return `${scene.say('Not known whether they hold: {1}', String(unknown.length))} (${alarmText({ ...first, values: {} }, scene)}: ${first.why})`;
}
