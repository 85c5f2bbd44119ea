'use client';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { colourOf, TEXT_ALIGN, type DrawingProps } from './drawing.ts';
import { TemplateBox } from './TemplateBox.tsx';
import { useInState } from './useInState.ts';

export function TextDrawing({ element, drawn, h }: DrawingProps) {
  const { text } = useInState(element, drawn);
  const { template, size, align, tone } = settingsOf('text', element);
  return (
    <TemplateBox
      template={template || (element.tagId === null ? element.label : '{state}')}
      state={{ text, drawn }}
      px={TEXT_PX[size]}
      h={h}
      style={{ textAlign: TEXT_ALIGN[align], color: colourOf(tone), fontWeight: size === 'large' || size === 'huge' ? 600 : 400 }}
    />
  );
}
