/**
 * A second hold on the data folder, beside its lock file: a file can be deleted, and the next server would write into the
 * same database. The name of the folder itself is claimed with the system, which gives it back when the process ends.
 */
import { statSync } from 'node:fs';
import { createServer, type Server } from 'node:net';
import { fail, ok, type Result } from '@/core/result.ts';

/** Takes the folder's name, where the system has such names: Linux and Windows. Links and other spellings are one folder. */
export function claimFolder(folder: string): Promise<Result<Server | null>> {
  const { dev, ino } = statSync(folder, { bigint: true });
  const name = `mill-latch-data-${dev}-${ino}`;
  const path = process.platform === 'linux' ? `\0${name}` : process.platform === 'win32' ? `\\\\.\\pipe\\${name}` : null;
  if (path === null) return Promise.resolve(ok(null));
  const server = createServer((socket) => socket.destroy());
  server.unref();
  return new Promise((resolve) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EADDRINUSE') return resolve(ok(null));
      resolve(
        fail(
          'folder-held',
          `The data folder ${folder} is in use by another server, though its lock file is gone.`,
          'Stop that server, or start this one with another --data folder.',
        ),
      );
    });
    server.listen(path, () => resolve(ok(server)));
  });
}
