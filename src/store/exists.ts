import { stat } from 'node:fs/promises';

/** Whether there is a file or folder of this path that may be looked at. */
export function exists(path: string): Promise<boolean> {
  return stat(path).then(
    () => true,
    () => false,
  );
}
