/**
 * What pages of a panel host may ask for: of the bench's own route handlers those of panels, and a few of the host itself. Everything
 * else is not there.
 */
import { GET as bundle } from '../app/api/v1/panels/[id]/route.ts';
import { GET as panelAlarms } from '../app/api/v1/panels/[id]/alarms/route.ts';
import { POST as signIn } from '../app/api/v1/panels/[id]/sign-in/route.ts';
import { POST as signOut } from '../app/api/v1/panels/[id]/sign-out/route.ts';
import { POST as press } from '../app/api/v1/panels/[id]/elements/[elementId]/press/route.ts';
import { POST as actOnAlarm } from '../app/api/v1/panels/[id]/elements/[elementId]/alarm/route.ts';
import { GET as listSets, POST as actOnSet } from '../app/api/v1/panels/[id]/elements/[elementId]/sets/route.ts';
import { GET as picture } from '../app/api/v1/pictures/[id]/route.ts';
import { GET as status } from '../app/api/v1/status/route.ts';
import { GET as values } from '../app/api/v1/values/route.ts';
import { GET as writes } from '../app/api/v1/writes/route.ts';
import { POST as lock } from '../app/api/v1/guard/lock/route.ts';
import { POST as unlock } from '../app/api/v1/guard/unlock/route.ts';
import { POST as join } from '../app/api/v1/join/route.ts';
import { GET as network, POST as changeNetwork } from '../app/api/v1/network/route.ts';
import { POST as phoneCode } from '../app/api/v1/network/code/route.ts';
import { POST as setRights } from '../app/api/v1/network/peers/[id]/route.ts';

type Handler = (request: Request, context: { params: Promise<never> }) => Promise<Response>;

interface Route {
  readonly method: string;
  readonly parts: readonly string[];
  readonly handler: Handler;
  /** It has an answer while nothing runs. */
  readonly isAlways: boolean;
}

const route = (line: string, handler: unknown, isAlways = false): Route => {
  const [method = '', path = ''] = line.split(' ');
  return { method, parts: path.split('/'), handler: handler as Handler, isAlways };
};

const ROUTES: readonly Route[] = [
  route('GET panels/:id', bundle),
  route('GET panels/:id/alarms', panelAlarms),
  route('POST panels/:id/sign-in', signIn),
  route('POST panels/:id/sign-out', signOut),
  route('POST panels/:id/elements/:elementId/press', press),
  route('POST panels/:id/elements/:elementId/alarm', actOnAlarm),
  route('GET panels/:id/elements/:elementId/sets', listSets),
  route('POST panels/:id/elements/:elementId/sets', actOnSet),
  route('GET pictures/:id', picture),
  route('GET status', status),
  route('GET values', values),
  route('GET writes', writes),
  route('POST guard/lock', lock),
  route('POST guard/unlock', unlock),
  route('POST join', join, true),
  route('GET network', network, true),
  route('POST network', changeNetwork, true),
  route('POST network/code', phoneCode, true),
  route('POST network/peers/:id', setRights, true),
];

export interface Found {
  readonly handler: Handler;
  readonly params: Readonly<Record<string, string>>;
  readonly isAlways: boolean;
}

/** @param path after `/api/v1/` */
export function findRoute(method: string, path: string): Found | null {
  const parts = path.split('/');
  for (const each of ROUTES) {
    if (each.method !== method || each.parts.length !== parts.length) continue;
    const params: Record<string, string> = {};
    const isIt = each.parts.every((part, i) => {
      if (!part.startsWith(':')) return part === parts[i];
      params[part.slice(1)] = parts[i] ?? '';
      return true;
    });
    if (isIt) return { handler: each.handler, params, isAlways: each.isAlways };
  }
  return null;
}
