/**
 * How well a colour stands out from another one. WCAG 2.2, relative luminance and contrast ratio; 1.4.3: text 4.5 to 1, large text
 * 3 to 1; 1.4.11: graphics 3 to 1.
 */
import type { Tone } from './elementKind.ts';

/** The colours of both themes, as `globals.css` has them; a test compares the two. */
export const THEME_COLOURS: Readonly<Record<'day' | 'night', Readonly<Record<Exclude<Tone, 'line'>, string>>>> = {
  day: {
    plain: '#22302d',
    quiet: '#5d6b67',
    primary: '#1e5b57',
    accent: '#c47f1d',
    good: '#2c784b',
    look: '#8c5a0c',
    bad: '#a8322a',
    surface: '#fffdf9',
    page: '#f6f1e7',
  },
  night: {
    plain: '#e4e8e2',
    quiet: '#9fb0aa',
    primary: '#6fc2b4',
    accent: '#e0a24a',
    good: '#7cc796',
    look: '#e0b25a',
    bad: '#e58578',
    surface: '#182120',
    page: '#121a19',
  },
};

function luminance(colour: string): number {
  const [r, g, b] = [1, 3, 5].map((at) => {
    const part = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** 1 for the same colour, 21 for black on white. */
export function contrast(a: string, b: string): number {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (light + 0.05) / (dark + 0.05);
}

/** The worse of the two themes. @param behind what the text lies on */
export function worstContrast(tone: Tone, behind: 'page' | 'surface'): number {
  if (tone === 'line') return 3;
  return Math.min(...(['day', 'night'] as const).map((theme) => contrast(THEME_COLOURS[theme][tone], THEME_COLOURS[theme][behind])));
}
