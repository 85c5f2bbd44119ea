'use client';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { colourOf, TEXT_ALIGN, type DrawingProps } from './drawing.ts';
import { TemplateBox } from './TemplateBox.tsx';

export function TextDrawing({ element, h }: DrawingProps) {
  const { template, size, align, tone } = settingsOf('text', element);
  return (
    <TemplateBox
      template={template || element.label}
      px={TEXT_PX[size]}
      h={h}
      style={{ textAlign: TEXT_ALIGN[align], color: colourOf(tone), fontWeight: size === 'large' || size === 'huge' ? 600 : 400 }}
    />
  );
}
