/** The requests that are the host's own: of benches, which seal what they say, and of its page, which only this machine opens. */
import type { AnyObjectSchema, InferType } from 'yup';
import { CALL_BODY, NAME_BODY, PAIR_BODY, PROVE_BODY, type HostAtHand } from '@/core/hosting/messages.ts';
import { ok, type Result } from '@/core/result.ts';
import { answer, readBody } from '../app/api/http/answers.ts';
import type { HostFolder } from './hostFolder.ts';
import type { PanelHost } from './panelHost.ts';

/** A part of a project, sealed and in base64. */
const MOST_BODY_BYTES = 2_000_000;
const OF_BENCHES: ReadonlySet<string> = new Set(['hello', 'pair', 'prove', 'call']);

/** Asked by other machines too: who asks shows by what it says that it may. @param path plain */
export function isForBenches(method: string, path: string): boolean {
  return method === 'POST' && path.startsWith(HOST_PATH) && OF_BENCHES.has(path.slice(HOST_PATH.length));
}
export const HOST_PATH = '/api/v1/host/';

/** @param what after `/api/v1/host/`. @returns null for nothing that is here */
export async function answerHost(host: PanelHost, folder: HostFolder, port: number, what: string, request: Request): Promise<Response | null> {
  const isPost = request.method === 'POST';
  const body = async <S extends AnyObjectSchema, T>(schema: S, then: (told: InferType<S>) => Promise<Result<T>>): Promise<Response> => {
    const read = await readBody(request, schema, MOST_BODY_BYTES);
    return answer(read.ok ? await then(read.value) : read);
  };
  if (isPost)
    switch (what) {
      case 'hello':
        return answer(ok(host.greeting()));
      case 'pair':
        return body(PAIR_BODY, ({ bench, key }) => host.pairing.begin(bench, key));
      case 'prove':
        return body(PROVE_BODY, ({ pairing, proof }) => host.prove(pairing, proof));
      case 'call':
        return body(CALL_BODY, async ({ bench, nonce, box }) => {
          const done = await host.call(bench, nonce, box);
          return done.ok ? ok({ box: done.value }) : done;
        });
      case 'code':
        host.pairing.show();
        return answer(ok(await atHand(host, folder, port)));
      case 'name':
        return body(NAME_BODY, async ({ name }) => {
          await folder.rename(name);
          return ok(await atHand(host, folder, port));
        });
      default:
        return null;
    }
  return request.method === 'GET' && what === 'at-hand' ? answer(ok(await atHand(host, folder, port))) : null;
}

async function atHand(host: PanelHost, folder: HostFolder, port: number): Promise<HostAtHand> {
  const devices = host.running?.services.model.all('device').map(({ id, name }) => ({ id, name })) ?? [];
  const benches = folder.identity.benches.map(({ id, name, pairedAt }) => ({ id, name, pairedAt }));
  return { ...(await host.state()), code: host.pairing.shown, benches, devices, port };
}
