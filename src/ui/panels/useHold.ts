'use client';
/** Holds a state on while a button is pressed; lets go when anything takes the press away. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { ServerHeld } from '@/core/live/messages.ts';
import type { Element } from '@/core/project/entities.ts';
import { useLive } from '../live/liveHooks.ts';
import { useStage } from './SceneContext.tsx';
import { usePageSubject } from './Subjects.tsx';

/** What presses: a pointer by its number, or a key. */
type Presser = number | 'key';

export interface Hold {
  readonly isHeld: boolean;
  readonly press: (by: Presser) => void;
  readonly letGo: () => void;
}

/** @param wordId a key of the panel, which tells the controller of the press; absent for what the button itself holds */
export function useHold(element: Element, name: string, wordId?: string): Hold {
  const live = useLive();
  const { scene, signing } = useStage();
  const { choice } = usePageSubject();
  const [isHeld, setHeld] = useState(false);
  const held = useRef<{ readonly by: Presser; readonly stop: () => void } | null>(null);
  const letGo = useCallback(() => {
    held.current?.stop();
    held.current = null;
    setHeld(false);
  }, []);
  const press = (by: Presser): void => {
    if (held.current) return;
    setHeld(true);
    let isOver = false;
    const told = ({ phase, sentence }: ServerHeld): void => {
      if (phase === 'on') return;
      if (phase === 'unknown') toast.error(`${name} may still be on: ${sentence}`, { duration: Infinity });
      if (phase === 'refused') toast.error(`${name}: ${sentence}`);
      // Also where the page was held up meanwhile, and hears it once it wakes.
      if (phase === 'released') toast.warning(`${name}: ${sentence}`, { duration: Infinity });
      isOver = true;
      if (held.current && held.current.stop !== stop) return;
      held.current = null;
      setHeld(false);
    };
    const stop: () => void = live.hold(
      { panelId: scene.panel.id, elementId: element.id, wordId, subject: choice?.number, session: signing.session },
      told,
    );
    if (!isOver) held.current = { by, stop };
  };
  useEffect(() => {
    // Wherever the finger or the key comes up: the button may have changed, or gone, under it.
    const whenUp = (event: PointerEvent): void => {
      if (held.current?.by === event.pointerId) letGo();
    };
    const whenKeyUp = (): void => {
      if (held.current?.by === 'key') letGo();
    };
    const whenHidden = (): void => {
      if (document.visibilityState === 'hidden') letGo();
    };
    window.addEventListener('pointerup', whenUp);
    window.addEventListener('pointercancel', whenUp);
    window.addEventListener('keyup', whenKeyUp);
    window.addEventListener('blur', letGo);
    window.addEventListener('pagehide', letGo);
    document.addEventListener('visibilitychange', whenHidden);
    return () => {
      window.removeEventListener('pointerup', whenUp);
      window.removeEventListener('pointercancel', whenUp);
      window.removeEventListener('keyup', whenKeyUp);
      window.removeEventListener('blur', letGo);
      window.removeEventListener('pagehide', letGo);
      document.removeEventListener('visibilitychange', whenHidden);
      letGo();
    };
  }, [letGo]);
  return { isHeld, press, letGo };
}
