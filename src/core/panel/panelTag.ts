/** A tag on its way to a panel: all that its values are decoded, scaled and written with, as JSON. */
import type { Limits } from '../ranges/limits.ts';
import type { Range } from '../ranges/range.ts';
import { ok, type Result } from '../result.ts';
import type { Scale } from '../scaling/scale.ts';
import type { SignalDefinition } from '../signal.ts';
import { formatDataType, parseDataType } from '../value/dataType.ts';
import { isDecimal } from '../value/decimal.ts';
import { fromJson, toJson, type ValueJson } from '../value/engineering.ts';
import type { ValueNames } from '../value/valueNames.ts';
import type { SceneTag } from './scene.ts';

export interface PanelTag extends Omit<SceneTag, 'def'> {
  /** Null where its settings do not fit together. */
  readonly signal: PanelSignal | null;
}

interface PanelSignal extends Omit<SignalDefinition, 'type' | 'unavailable'> {
  readonly type: string;
  readonly scale: Scale;
  readonly range: Range | null;
  readonly limits?: Limits | undefined;
  readonly names?: ValueNames | undefined;
  readonly unavailable?: readonly ValueJson[];
}

export function panelTag({ def, ...tag }: SceneTag): PanelTag {
  if (def === null) return { ...tag, signal: null };
  const { type, unavailable, ...rest } = def;
  return { ...tag, signal: { ...rest, type: formatDataType(type), ...(unavailable ? { unavailable: unavailable.map(toJson) } : {}) } };
}

/** The inverse of {@link panelTag}. Refuses what a newer server may say of a type. */
export function sceneTag({ signal, ...tag }: PanelTag): Result<SceneTag> {
  if (signal === null) return ok({ ...tag, def: null });
  const { type: text, unavailable, ...rest } = signal;
  const type = parseDataType(text);
  if (!type.ok) return type;
  const codes = unavailable?.flatMap((json) => {
    const code = fromJson(json);
    return code.ok && !isDecimal(code.value) ? [code.value] : [];
  });
  return ok({ ...tag, def: { ...rest, type: type.value, ...(codes ? { unavailable: codes } : {}) } });
}
