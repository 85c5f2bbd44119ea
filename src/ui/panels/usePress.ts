'use client';
/** Presses of elements: the server writes what the element may write, and says what the controller holds afterwards. */
import { useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Press } from '@/core/panel/press.ts';
import type { Element } from '@/core/project/entities.ts';
import type { Result } from '@/core/result.ts';
import { call } from '../live/api.ts';
import { useLive } from '../live/liveHooks.ts';
import { useStage } from './SceneContext.tsx';
import { usePageSubject } from './Subjects.tsx';

export function usePress(element: Element): {
  readonly press: (press: Press, how?: { readonly quiet?: boolean }) => Promise<Result<{ readonly writes: readonly WriteOutcome[] }>>;
  readonly busy: boolean;
} {
  const live = useLive();
  const { scene, signing } = useStage();
  const { choice } = usePageSubject();
  const [busy, setBusy] = useState(false);
  const press = async (
    what: Press,
    { quiet = false }: { readonly quiet?: boolean } = {},
  ): Promise<Result<{ readonly writes: readonly WriteOutcome[] }>> => {
    setBusy(true);
    const done = await call<{ readonly writes: readonly WriteOutcome[] }>('POST', `/panels/${scene.panel.id}/elements/${element.id}/press`, {
      id: uuid(),
      ...what,
      ...(choice ? { subject: choice.number } : {}),
      ...(signing.session === undefined ? {} : { session: signing.session }),
    });
    setBusy(false);
    const name = scene.tag(element.tagId ?? '')?.name ?? (element.label || 'Button');
    if (!done.ok) toast.error(`${name}: ${done.problem.message}`, { description: done.problem.remedy });
    else
      for (const write of done.value.writes) {
        if (write.sample) live.takeSample(write.sample);
        if (write.state !== 'done') toast.warning(`${name}: ${write.sentence}`, { duration: 15_000 });
        else if (!quiet) toast.success(`${name}: ${write.sentence}`);
      }
    return done;
  };
  return { press, busy };
}
