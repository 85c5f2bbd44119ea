'use client';
/** Holds a state on while a button is pressed; lets go when anything takes the press away. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { Tag } from '@/core/project/entities.ts';
import { useLive } from '../live/LiveContext.tsx';

export function useHold(tag: Tag | null): { readonly isHeld: boolean; readonly press: () => void; readonly letGo: () => void } {
  const live = useLive();
  const [isHeld, setHeld] = useState(false);
  const stop = useRef<(() => void) | null>(null);
  const letGo = useCallback(() => {
    stop.current?.();
    stop.current = null;
    setHeld(false);
  }, []);
  const press = (): void => {
    if (!tag || stop.current) return;
    setHeld(true);
    stop.current = live.hold(tag.id, (held) => {
      if (held.phase === 'on') return;
      stop.current = null;
      setHeld(false);
      if (held.phase === 'refused') toast.error(`${tag.name}: ${held.sentence}`);
    });
  };
  useEffect(() => {
    const whenHidden = (): void => {
      if (document.visibilityState === 'hidden') letGo();
    };
    window.addEventListener('blur', letGo);
    window.addEventListener('pagehide', letGo);
    document.addEventListener('visibilitychange', whenHidden);
    return () => {
      window.removeEventListener('blur', letGo);
      window.removeEventListener('pagehide', letGo);
      document.removeEventListener('visibilitychange', whenHidden);
      letGo();
    };
  }, [letGo]);
  return { isHeld, press, letGo };
}
