/**
 * Who may talk to the server: only pages that it served itself. A foreign Host (a name that was bent to this
 * machine) and a foreign Origin (another page in the same browser) are refused before anything else happens.
 */
import type { IncomingMessage } from 'node:http';

/**
 * @param allowed  hosts with their port under which the server is asked, in lower case
 * @returns null, or the reason why the request is refused
 */
export function refuse(request: Pick<IncomingMessage, 'headers' | 'method' | 'url'>, allowed: readonly string[]): string | null {
  const host = request.headers.host?.toLowerCase();
  if (host === undefined || !allowed.includes(host)) return 'This server answers only under its own address.';
  const { origin } = request.headers;
  if (origin !== undefined && origin !== `http://${host}`) return 'Requests from pages of other servers are refused.';
  const site = request.headers['sec-fetch-site'];
  const mode = request.headers['sec-fetch-mode'];
  // A person may follow a link to a page; what an image, a frame or a link elsewhere asks of the API nobody here has asked for.
  const isOwn = site === undefined || site === 'same-origin' || site === 'none';
  if (!isOwn && (request.url ?? '').startsWith('/api/')) return 'Requests from pages of other servers are refused.';
  if (!isOwn && mode === 'navigate' && request.headers['sec-fetch-dest'] !== 'document') return 'Requests from pages of other servers are refused.';
  if (site === 'cross-site' && mode !== 'navigate') return 'Requests from pages of other servers are refused.';
  if (site === 'cross-site' && request.method !== 'GET' && request.method !== 'HEAD') return 'Requests from pages of other servers are refused.';
  return null;
}

/**
 * What a page may do: run the scripts that were served with it, which have the number of this answer, and talk to this
 * server. Nothing comes from elsewhere (Content Security Policy Level 3).
 * @param nonce made anew for each answer
 * @param host under which the server was asked; already checked
 */
export function contentPolicy(isDev: boolean, nonce: string, host: string): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'${isDev ? " 'unsafe-eval'" : ''}`,
    // Elements are placed and drawn by style attributes.
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self' data:",
    `connect-src 'self' ws://${host}`,
    "frame-ancestors 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "object-src 'none'",
  ].join('; ');
}

/** What an answer of the API may do where a browser opens it by itself, an SVG among them: draw, and nothing else. */
export const ANSWER_POLICY = "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; sandbox";

/** Headers of every answer beside its policy. */
export const SECURITY_HEADERS = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
} as const;
