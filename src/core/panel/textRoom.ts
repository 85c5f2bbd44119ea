/** How large an element writes its text, and whether a text fits. The drawings take their sizes from here. */
import { settingsOf, type ElementKind, type ElementSettings } from './kinds.ts';

export const TEXT_PX = { small: 13, normal: 16, large: 24, huge: 44 } as const;

/** Widths of characters in parts of their size: of the mono face every one, of the other on the average of capitals. Measured in the browser. */
const MONO_EM = 0.61;
const SANS_EM = 0.62;
const UNIT_PX = 14;
const SIDES_PX = 26;

interface Written {
  readonly kind: ElementKind;
  readonly settings: ElementSettings;
  readonly w: number;
  readonly h: number;
}

/** Below this height label and value stand in one line. */
export const FLAT_PX = 44;

export function valuePx(size: keyof typeof TEXT_PX, h: number): number {
  return h < FLAT_PX ? Math.min(TEXT_PX[size], h - 10) : TEXT_PX[size] * 1.35;
}

/** Pixels that a text takes with its unit, and those that there are; null for a kind that writes no value. */
export function textRoom(element: Written, text: string, unit: string): { readonly needs: number; readonly has: number } | null {
  const { w, h } = element;
  const unitPx = unit === '' ? 0 : unit.length * UNIT_PX * 0.55 + 8;
  const mono = (px: number): number => text.length * px * MONO_EM + unitPx;
  const sans = (px: number): number => text.length * px * SANS_EM;
  switch (element.kind) {
    case 'value':
    case 'entry':
      return { needs: mono(valuePx(settingsOf(element.kind, element).size, h)), has: (h < FLAT_PX ? w * 0.6 : w) - SIDES_PX };
    case 'bar':
    case 'dial':
    case 'slider':
      return { needs: mono(20), has: w - SIDES_PX };
    case 'lamp':
      return { needs: sans(17), has: w - SIDES_PX - 30 };
    case 'switch':
      return { needs: sans(17), has: w - SIDES_PX - 64 };
    case 'pick':
      return { needs: sans(18), has: w - SIDES_PX - 22 };
    case 'button':
      return { needs: sans(TEXT_PX[settingsOf('button', element).size]), has: w - SIDES_PX - 22 };
    case 'symbol':
    case 'picture':
      return { needs: sans(13), has: w - 16 };
    default:
      return null;
  }
}
