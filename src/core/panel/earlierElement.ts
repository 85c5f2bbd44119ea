/** Elements of before pages were free: twelve columns, five kinds. The tables of a data folder are brought over by migration 020, to the same. */
import { newAction, type Act } from './actions.ts';
import { onOff } from './states.ts';

type Entity = Readonly<Record<string, unknown>>;

/** An element as it was stored before, told by its lack of an arrangement for phones. */
export function isEarlierElement(entity: Entity): boolean {
  return 'pageId' in entity && 'settings' in entity && !('phone' in entity);
}

export function fromEarlierElement(entity: Entity): Entity {
  const { kind, x, y, w, h, settings, ...rest } = entity as Entity & { readonly [K in 'x' | 'y' | 'w' | 'h']: number };
  return {
    ...rest,
    kind: kind === 'number' ? 'value' : kind,
    x: 10 + x * 105,
    y: 8 + y * 54,
    w: w * 105 - 8,
    h: h * 54 - 8,
    settings: settingsOf(String(kind), (settings ?? {}) as Entity),
  };
}

function settingsOf(kind: string, { onText, offText, action, value, low, high, unit }: Entity): Entity {
  const isOf = (...kinds: readonly string[]): boolean => kinds.includes(kind);
  const said = isOf('lamp', 'button') && Boolean(onText || offText);
  return {
    ...(said ? { states: onOff(words(onText) || 'on', words(offText) || 'off') } : {}),
    ...(kind === 'button' ? { actions: [newAction((action ?? 'toggle') as Act, { value: words(value) })] } : {}),
    ...(kind === 'bar' && typeof low === 'number' ? { low } : {}),
    ...(kind === 'bar' && typeof high === 'number' ? { high } : {}),
    ...(isOf('number', 'bar', 'entry') && unit ? { unit } : {}),
  };
}

function words(text: unknown): string {
  return typeof text === 'string' ? text : '';
}

/** A panel high enough for what stood on its pages. */
export function earlierHeight(bottoms: readonly number[]): number {
  return Math.min(4000, Math.max(800, ...bottoms.map((bottom) => bottom + 48)));
}
