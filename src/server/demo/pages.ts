/** Pages of the demo's panels, as they were drawn in the editor: 1280 × 760 under the bar. */
import { v7 as uuid } from 'uuid';
import { newAction, type Act } from '@/core/panel/actions.ts';
import type { ElementKind, ElementSettings } from '@/core/panel/kinds.ts';
import { onOff, type State } from '@/core/panel/states.ts';
import { walked } from '@/core/panel/bound.ts';
import type { Change } from '@/core/project/command.ts';
import type { OnPhone } from '@/core/project/kinds/element.ts';
import { TAG_LISTS } from '@/core/panel/retag.ts';

export interface DemoElement {
  readonly kind: ElementKind;
  readonly at: readonly [x: number, y: number, w: number, h: number];
  /** The name of its tag. */
  readonly tag?: string;
  readonly label?: string;
  readonly settings?: ElementSettings;
  readonly phone?: Partial<OnPhone>;
}

type At = DemoElement['at'];
type Settings = ElementSettings;

export const value = (at: At, tag: string, label: string, settings: Settings = {}): DemoElement => ({ kind: 'value', at, tag, label, settings });
export const entry = (at: At, tag: string, label: string, settings: Settings = {}): DemoElement => ({ kind: 'entry', at, tag, label, settings });
export const bar = (at: At, tag: string, label: string, settings: Settings = {}): DemoElement => ({ kind: 'bar', at, tag, label, settings });
export const frame = (at: At, label: string): DemoElement => ({ kind: 'frame', at, label });
export const text = (at: At, template: string, settings: Settings = {}): DemoElement => ({ kind: 'text', at, settings: { template, ...settings } });
export const pipe = (at: At, points: readonly (readonly [number, number])[], flowing: string): DemoElement => ({
  kind: 'pipe',
  at,
  settings: { points: points.map(([x, y]) => ({ x, y })), ...(flowing === '' ? {} : { flowing: { by: flowing } }) },
});
export const lamp = (
  at: At,
  tag: string,
  label: string,
  on: string,
  off: string,
  looks: { readonly on?: State['look']; readonly off?: State['look'] } = {},
): DemoElement => ({
  kind: 'lamp',
  at,
  tag,
  label,
  settings: { states: states(on, off, looks) },
});
export const symbol = (
  at: At,
  name: string,
  tag: string | undefined,
  label: string,
  on = 'RUNS',
  off = 'STOPPED',
  settings: Settings = {},
): DemoElement => ({
  kind: 'symbol',
  at,
  ...(tag === undefined ? {} : { tag }),
  label,
  settings: { symbol: name, ...(tag === undefined ? {} : { states: states(on, off) }), ...settings },
});
export const button = (at: At, tag: string, label: string, act: Act, settings: Settings = {}, written = ''): DemoElement => ({
  kind: 'button',
  at,
  tag,
  label,
  settings: { actions: [newAction(act, { value: written })], ...settings },
});
/** Leads to another page. */
export const way = (at: At, caption: string, pageId: string): DemoElement => ({
  kind: 'button',
  at,
  label: caption,
  settings: { actions: [newAction('page', { pageId })], tone: 'quiet' },
});

export function states(on: string, off: string, looks: { readonly on?: State['look']; readonly off?: State['look'] } = {}): readonly State[] {
  return onOff(on, off).map((state) => ({ ...state, look: state.at === 1 ? (looks.on ?? state.look) : (looks.off ?? state.look) }));
}

/** @param idOf the id of a tag by its name, in `@` of expressions too */
export function pageChanges(pageId: string, elements: readonly DemoElement[], idOf: (tag: string) => string | null): readonly Change[] {
  const bound = (settings: Settings): Settings =>
    walked(settings, (expression) => expression.replace(/[a-z][a-z0-9_]*/gi, (name) => (idOf(name) === null ? name : `@${idOf(name)}`))) as Settings;
  return elements.map(({ kind, at: [x, y, w, h], tag, label = '', settings = {}, phone }, z): Change => ({
    kind: 'element',
    id: uuid(),
    set: {
      pageId,
      kind,
      tagId: tag === undefined ? null : idOf(tag),
      label,
      x,
      y,
      w,
      h,
      z,
      phone: { place: null, width: 'auto', ...phone },
      settings: listed(bound(settings), idOf),
    },
  }));
}

/** Tags in the lists of settings come by their names. */
function listed(settings: Settings, idOf: (tag: string) => string | null): Settings {
  return Object.fromEntries(
    Object.entries(settings).map(([key, said]) => [
      key,
      TAG_LISTS.some((list) => list === key) && Array.isArray(said) ? said.flatMap((tag: string) => idOf(tag) ?? []) : said,
    ]),
  );
}
