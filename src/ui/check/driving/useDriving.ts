'use client';
/** What may be set for checks, as the server has it; asked for anew when something was set, put back or declared. */
import { useCallback, useEffect, useState } from 'react';
import type { DrivePermission } from '@/core/check/driving/permission.ts';
import { call } from '../../live/api.ts';
import { useStatus } from '../../live/liveHooks.ts';

export function useDriving(tagId: string, digest: string) {
  const [permissions, setPermissions] = useState<readonly DrivePermission[] | null>(null);
  const status = useStatus();
  const reload = useCallback(async (): Promise<void> => {
    const done = await call<{ readonly permissions: readonly DrivePermission[] }>('GET', '/driven');
    if (done.ok) setPermissions(done.value.permissions);
  }, []);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- it is asked for, and comes later
    void reload();
  }, [reload, tagId, digest]);
  return {
    isLoaded: permissions !== null,
    permission: permissions?.find((each) => each.tagId === tagId) ?? null,
    driven: status?.driven.find((each) => each.tagId === tagId) ?? null,
    isolated: status?.isolated ?? [],
    unlocked: status?.unlocked ?? [],
    reload,
  };
}
