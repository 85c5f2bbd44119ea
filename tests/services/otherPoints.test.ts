/** What a device lists of its points: only a whole list says that one is not there. */
import { describe, expect, test } from '@jest/globals';
import type { Tag } from '@/core/project/entities.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { BrowsedNode, DeviceSession } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import { OtherPointReader } from '@/services/checks/otherPoints.ts';

const REAL = parseDataType('REAL');
const node = (path: string, type: string | null = 'REAL'): BrowsedNode => ({ path, canonical: path, type, hasChildren: type === null });

/** @param browse null for a device that cannot list; points that it refuses are listed and not read */
async function listsOwn(
  own: string,
  browse: ((path: string) => Result<readonly BrowsedNode[]>) | null,
  refused: readonly string[] = [],
): Promise<boolean | null> {
  if (!REAL.ok) throw new Error();
  const session = {
    ...(browse ? { browse: async (path: string) => browse(path) } : {}),
    prepare: (points: readonly { readonly key: string }[]) => ({
      read: async (take: (key: string, arrival: unknown) => void) => {
        for (const { key } of points) if (!refused.includes(key)) take(key, { wire: { kind: 'typed', value: 1.5 }, at: 0 });
        return null;
      },
    }),
  } as unknown as DeviceSession;
  const signal = { canonical: own, def: { type: REAL.value, isTyped: true } } as unknown as EffectiveSignal;
  const other = { ok: true, value: { canonical: 'Other', def: { type: REAL.value } } };
  const model = { tagsOn: () => [{ id: 'other', name: 'other' }], effective: () => other } as unknown as ProjectModel;
  const engine = { session: () => session, clock: { now: () => 0 } } as unknown as Engine;
  const tag = { id: 'own', source: newPoint('device', own, {}) } as unknown as Tag;
  return (await new OtherPointReader(model, engine).around(tag, signal, 'all'))?.listsOwn ?? null;
}

describe('that a device has no such point', () => {
  test('is said where its whole list is without it', async () => {
    expect(await listsOwn('Gone', () => ok([node('Other')]))).toBe(false);
  });
  test.each<[string, ((path: string) => Result<readonly BrowsedNode[]>) | null, readonly string[]]>([
    ['it lists it and refuses to tell its value', () => ok([node('Other'), node('Gone')]), ['Gone']],
    ['it lists it as something else', () => ok([node('Other'), node('Gone', 'STRING(20)')]), []],
    ['it cannot list', null, []],
    ['its list broke off', (path) => (path === '' ? ok([node('Other'), node('Part', null)]) : fail('silent', 'No reply.')), []],
    ['it lists nothing', () => ok([]), []],
  ])('is not said where %s', async (_what, browse, refused) => {
    expect(await listsOwn('Gone', browse, refused)).not.toBe(false);
  });
});
