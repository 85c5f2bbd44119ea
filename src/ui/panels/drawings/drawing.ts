/** What a drawing of an element is given, and looks that several drawings share. */
import type { CSSProperties, ReactNode } from 'react';
import type { Tone } from '@/core/panel/elementKind.ts';
import { sidePx } from '@/core/panel/textRoom.ts';
import type { Look } from '@/core/panel/states.ts';
import type { Element } from '@/core/project/entities.ts';
import type { Drawn } from '../useValues.ts';

export interface DrawingProps {
  readonly element: Element;
  readonly drawn: Drawn;
  /** In pixels of the panel. */
  readonly w: number;
  readonly h: number;
  /** It can be pressed: the page is at work, its condition holds, and its tag can be written. */
  readonly isEnabled: boolean;
}
export type Drawing = (props: DrawingProps) => ReactNode;

export const ALIGN = { left: 'flex-start', centre: 'center', right: 'flex-end' } as const;
export const TEXT_ALIGN = { left: 'left', centre: 'center', right: 'right' } as const;

const COLOURS: Readonly<Record<Tone, string>> = {
  plain: 'var(--color-base-content)',
  quiet: 'var(--color-secondary)',
  primary: 'var(--color-primary)',
  accent: 'var(--color-accent)',
  good: 'var(--color-success)',
  look: 'var(--color-warning)',
  bad: 'var(--color-error)',
  line: 'var(--color-panel-line)',
  surface: 'var(--color-base-100)',
  page: 'var(--color-base-200)',
};
export const colourOf = (tone: Tone | 'none'): string => (tone === 'none' ? 'none' : COLOURS[tone]);

const LOOKS: Readonly<Record<Look, string>> = {
  plain: 'var(--color-base-content)',
  off: 'var(--color-secondary)',
  on: 'var(--color-success)',
  look: 'var(--color-warning)',
  bad: 'var(--color-error)',
};
export const lookColour = (look: Look): string => LOOKS[look];

/** The frame around what shows a value: its line says whether the value can be trusted. */
export function frameOf(frame: 'line' | 'none' | 'filled', level: Drawn['level'], w: number): CSSProperties {
  return { paddingInline: sidePx(w), ...lineOf(frame, level) };
}

function lineOf(frame: 'line' | 'none' | 'filled', level: Drawn['level']): CSSProperties {
  const line = level === 'bad' ? '1px dashed var(--color-error)' : level === 'uncertain' ? '1px solid var(--color-warning)' : null;
  if (frame === 'none') return line ? { border: line, borderRadius: 6 } : {};
  return {
    border: line ?? '1px solid var(--color-base-300)',
    borderRadius: 6,
    background: frame === 'filled' ? 'var(--color-base-200)' : 'var(--color-base-100)',
  };
}
