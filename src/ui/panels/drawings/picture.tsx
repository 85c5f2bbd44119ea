'use client';
import { ImageOff } from 'lucide-react';
import { useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import type { ScenePicture } from '@/core/panel/scene.ts';
import { useStage } from '../SceneContext.tsx';
import type { DrawingProps } from './drawing.ts';
import { StateLine } from './parts.tsx';
import { useInState } from './useInState.ts';

/** The picture of the state that its value is in, else its own; the state stands below it in words. */
export function PictureDrawing({ element, drawn, w, h }: DrawingProps) {
  const { scene, isArranged } = useStage();
  const { pictureId: own, fit, word } = settingsOf('picture', element);
  const { state, look, text } = useInState(element, drawn);
  const hasTag = element.tagId !== null || element.settings.of !== undefined;
  const id = state?.pictureId ?? own;
  const picture = id === null ? null : scene.picture(id);
  const isWorded = hasTag && (word || drawn.level === 'bad') && h >= 48;
  const label = element.label || picture?.name || 'Picture';
  return (
    <div className="flex h-full w-full flex-col items-center overflow-hidden" data-look={look ?? 'none'} data-picture={picture?.name ?? ''}>
      {id !== null && picture ? (
        <Image
          key={picture.digest}
          id={id}
          picture={picture}
          fit={fit}
          label={hasTag ? `${label}: ${text}` : label}
          isDim={hasTag && drawn.level === 'bad'}
        />
      ) : (
        <Missing text={id !== null ? 'its picture is gone' : isArranged ? 'choose a picture' : ''} />
      )}
      {hasTag ? <StateLine element={element} w={w} h={h} drawn={drawn} look={look} text={text} isWorded={isWorded} /> : null}
    </div>
  );
}

export function pictureAddress(id: string, digest: string): string {
  return `/api/v1/pictures/${id}?digest=${digest}`;
}

interface ImageProps {
  readonly id: string;
  readonly picture: ScenePicture;
  readonly fit: 'whole' | 'cover';
  readonly label: string;
  readonly isDim: boolean;
}

/** Drawn as an image: a browser runs nothing in it. */
function Image({ id, picture, fit, label, isDim }: ImageProps) {
  const [isBroken, setBroken] = useState(false);
  if (isBroken) return <Missing text="its picture cannot be drawn" />;
  return (
    <img
      src={pictureAddress(id, picture.digest)}
      alt={label}
      draggable={false}
      onError={() => setBroken(true)}
      className={`min-h-0 w-full flex-1 ${fit === 'cover' ? 'object-cover' : 'object-contain'} ${isDim ? 'opacity-35' : ''}`}
    />
  );
}

function Missing({ text }: { readonly text: string }) {
  return text === '' ? null : (
    <span className="border-base-300 quiet flex min-h-0 w-full flex-1 flex-col items-center justify-center gap-1 rounded-md border border-dashed text-[12px]">
      <ImageOff size={18} aria-hidden />
      <span className="max-w-full truncate px-1">{text}</span>
    </span>
  );
}
