/** The second link of the demo: ROLLS, eight flaking stands behind a serial gateway. */
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';
import { demoLink, type DemoPlace } from './link.ts';

const STANDS = 8;
/** A tag of one stand, as `demo/rolls-stand.json` has it: places as its drive prints them. */
interface StandTag {
  readonly name: string;
  readonly address: string;
  readonly type: string;
  readonly unit?: string;
  readonly exponent?: number;
  readonly write?: boolean;
  readonly comment: string;
}

/** @param folder of the demo's files */
export async function setUpRolls({ model, projects }: Services, folder: string, place: DemoPlace): Promise<Result<null>> {
  const { link: made, device: settings, dialect, witnessUrl, moved } = await demoLink(folder, 'rolls', place);
  const execute = async (label: string, changes: readonly Change[]): Promise<Result<null>> => {
    const done = await projects.execute({ id: uuid(), label, changes }, SET_UP);
    return done.ok ? ok(null) : done;
  };
  const known = model.all('device').filter((d) => /^ROLLS \d$/.test(d.name));
  const link = model.get('link', known[0]?.linkId ?? '');
  if (link) {
    const after = moved(link.settings);
    if (!after && known.every((d) => d.witnessUrl === witnessUrl)) return ok(null);
    return execute('demo: ports of the simulated stands', [
      { kind: 'link', id: link.id, set: { settings: after ?? link.settings } },
      ...known.map((d): Change => ({ kind: 'device', id: d.id, set: { witnessUrl } })),
    ]);
  }
  const tags = JSON.parse(await readFile(join(folder, 'rolls-stand.json'), 'utf8')) as readonly StandTag[];
  const linkId = uuid();
  const changes: Change[] = [{ kind: 'link', id: linkId, set: made }];
  for (let n = 1; n <= STANDS; n++) {
    const deviceId = uuid();
    changes.push({ kind: 'device', id: deviceId, set: { linkId, name: `ROLLS ${n}`, settings: settings(n), dialect, witnessUrl } });
    for (const { name, address, type, unit = '', exponent, write, comment } of tags) {
      const id = uuid();
      const set = { source: newPoint(deviceId, address), name: `s${n}_${name}`, type, unit, comment: `Stand ${n}: ${comment}` };
      const decimals = type === 'REAL' ? 1 : null;
      const access = write ? 'readWrite' : 'read';
      changes.push({ kind: 'tag', id, set: { ...set, access, decimals, rangeLow: null, rangeHigh: null, listId: '' } });
      if (exponent !== undefined) changes.push({ kind: 'scale', id, set: { scale: { kind: 'power', exponent } } });
    }
  }
  return execute('demo: flaking stands', changes);
}
