/** The second link of the demo: ROLLS, eight flaking stands behind a serial gateway. */
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import type { Services } from '@/services/services.ts';
import { SET_UP } from '@/store/projectStore.ts';
import { demoLink, type DemoPlace } from './link.ts';

const STANDS = 8;
const tenths: Scale = { kind: 'power', exponent: -1 };
const hundredths: Scale = { kind: 'power', exponent: -2 };
const thousandths: Scale = { kind: 'power', exponent: -3 };

/** The list of one stand, with references as its drive prints them, counted from 0. */
const TAGS: readonly (readonly [name: string, address: string, type: string, unit: string, scale: Scale | null, write: boolean, comment: string])[] =
  [
    ['gap_sp', '40000', 'UINT', 'mm', thousandths, true, 'Roll gap, set point'],
    ['gap', '40001', 'UINT', 'mm', thousandths, false, 'Roll gap'],
    ['feed_sp', '40002', 'UINT', '%', tenths, true, 'Feed gate, set point'],
    ['feed', '40003', 'UINT', '%', tenths, false, 'Feed gate'],
    ['speed', '40004', 'UINT', 'rpm', null, false, 'Roll speed'],
    ['current', '40005', 'REAL', 'A', null, false, 'Main drive, current'],
    ['temp_front', '40007', 'INT', '°C', tenths, false, 'Front roll, temperature'],
    ['temp_rear', '40008', 'INT', '°C', tenths, false, 'Rear roll, temperature'],
    ['pressure', '40009', 'UINT', 'bar', tenths, false, 'Hydraulics'],
    ['running', '40010.0', 'BOOL', '', null, false, 'Rolls turn'],
    ['engaged', '40010.1', 'BOOL', '', null, false, 'Rolls are together'],
    ['run_time', '40011', 'UDINT', 's', null, false, 'Time run'],
    ['flakes', '40013', 'UDINT', 'kg', null, false, 'Flakes made'],
    ['vibration', '30000', 'UINT', 'mm/s', hundredths, false, 'Bearing, vibration'],
    ['run_cmd', '00000', 'BOOL', '', null, true, 'Turn the rolls'],
  ];

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
    if (link.real || (!after && known.every((d) => d.witnessUrl === witnessUrl))) return ok(null);
    return execute('demo: ports of the simulated stands', [
      { kind: 'link', id: link.id, set: { settings: after ?? link.settings } },
      ...known.map((d): Change => ({ kind: 'device', id: d.id, set: { witnessUrl } })),
    ]);
  }
  const linkId = uuid();
  const changes: Change[] = [{ kind: 'link', id: linkId, set: made }];
  for (let n = 1; n <= STANDS; n++) {
    const deviceId = uuid();
    changes.push({ kind: 'device', id: deviceId, set: { linkId, name: `ROLLS ${n}`, settings: settings(n), dialect, witnessUrl } });
    for (const [name, address, type, unit, scale, write, comment] of TAGS) {
      const id = uuid();
      const set = { source: newPoint(deviceId, address), name: `s${n}_${name}`, type, unit, comment: `Stand ${n}: ${comment}` };
      const decimals = type === 'REAL' ? 1 : null;
      const access = write ? 'readWrite' : 'read';
      changes.push({ kind: 'tag', id, set: { ...set, access, decimals, rangeLow: null, rangeHigh: null, listId: '' } });
      if (scale) changes.push({ kind: 'scale', id, set: { scale } });
    }
  }
  return execute('demo: flaking stands', changes);
}
