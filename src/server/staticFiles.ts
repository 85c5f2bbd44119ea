/** Scripts, styles and fonts of pages, compressed when they were built; under their names they are never others. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import sirv from 'sirv';

export const STATIC_PATH = '/_next/static/';

/** @param next what answers for a file that is not there */
export type StaticFiles = (request: IncomingMessage, response: ServerResponse, next: () => void) => void;

/** @param folder with the files that were built, `.br` and `.gz` beside them. @param path under which they are asked for, with its slash */
export function staticFilesUnder(folder: string, path: string): StaticFiles {
  const serve = sirv(folder, { brotli: true, gzip: true, immutable: true, maxAge: 31_536_000 });
  return (request, response, next) => {
    const { url } = request;
    request.url = (url ?? '').slice(path.length - 1);
    serve(request, response, () => {
      request.url = url;
      next();
    });
  };
}
