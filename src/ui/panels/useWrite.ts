'use client';
/** Writes a value to the controller and says what it really holds afterwards. */
import { useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Result } from '@/core/result.ts';
import { call } from '../live/api.ts';
import { useLive } from '../live/LiveContext.tsx';

export function useWrite(): {
  /** @param unit in which it is entered; absent for the tag's own */
  readonly write: (tag: Tag, value: string, unit?: string) => Promise<Result<WriteOutcome>>;
  readonly busy: boolean;
} {
  const live = useLive();
  const [busy, setBusy] = useState(false);
  const write = async (tag: Tag, value: string, unit?: string): Promise<Result<WriteOutcome>> => {
    setBusy(true);
    const done = await call<WriteOutcome>('POST', `/tags/${tag.id}/write`, {
      id: uuid(),
      value,
      ...(unit === undefined ? {} : { unit }),
      origin: 'panel',
    });
    if (done.ok && done.value.sample) live.takeSample(done.value.sample);
    setBusy(false);
    if (!done.ok) toast.error(`${tag.name}: ${done.problem.message}`, { description: done.problem.remedy });
    else if (done.value.state === 'done') toast.success(`${tag.name}: ${done.value.sentence}`);
    else toast.warning(`${tag.name}: ${done.value.sentence}`, { duration: 15_000 });
    return done;
  };
  return { write, busy };
}
