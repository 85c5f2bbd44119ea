/** Pictures of pages: taken in, shown by panels, and kept for as long as something names them. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { TakenPicture } from '@/core/picture/picture.ts';
import { newFolder } from '../support/server.ts';
import { openBench, type Bench } from '../support/services.ts';

let bench: Bench;
const drum = (colour: string) =>
  new TextEncoder().encode(`<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><script>1</script><circle r="9" fill="${colour}"/></svg>`);

beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

async function taken(colour: string, into = bench): Promise<Omit<TakenPicture, 'removed'>> {
  const done = await into.services.pictures.take(drum(colour));
  if (!done.ok) throw new Error(done.problem.message);
  expect(done.value.removed).toEqual(['a script']);
  const { removed: _, ...facts } = done.value;
  return facts;
}
async function drawn(id: string, of = bench): Promise<string> {
  const file = await of.services.pictures.file(id);
  return file.ok ? new TextDecoder().decode(file.value.bytes) : file.problem.code;
}

describe('a picture', () => {
  const id = uuid();
  test('is named by a change, replaced by another, and undo brings back what was there', async () => {
    await bench.change('brought in', [{ kind: 'picture', id, set: { name: 'Drum', ...(await taken('red')) } }]);
    expect(await drawn(id)).toMatch(/<circle r="9" fill="red">/);
    await bench.change('replaced', [{ kind: 'picture', id, set: await taken('blue') }]);
    expect(await drawn(id)).toMatch(/blue/);
    await bench.services.projects.step('undo');
    expect(await drawn(id)).toMatch(/red/);
    expect(await drawn(uuid())).toBe('gone');
  });
  test('of the same name is refused, and what is none changes nothing', async () => {
    const revision = bench.services.projects.revision;
    const again = { id: uuid(), label: 'again', changes: [{ kind: 'picture' as const, id: uuid(), set: { name: 'drum', ...(await taken('red')) } }] };
    expect(await bench.services.projects.execute(again, 'engineer')).toMatchObject({
      ok: false,
      problem: { message: expect.stringMatching(/there already/) },
    });
    expect(await bench.services.pictures.take(new TextEncoder().encode('hello'))).toMatchObject({ ok: false, problem: { code: 'no-picture' } });
    expect(bench.services.projects.revision).toBe(revision);
  });
  test('goes with the bundle of a panel that shows it, and with no other', async () => {
    const [shows, other, page, list] = [uuid(), uuid(), uuid(), uuid()];
    const byState = uuid();
    await bench.change('panels', [
      { kind: 'picture', id: byState, set: { name: 'Running', ...(await taken('green')) } },
      {
        kind: 'stateList',
        id: list,
        set: { name: 'Run', states: [{ at: 1, to: null, text: 'runs', look: 'on', symbol: null, pictureId: byState }] },
      },
      { kind: 'panel', id: shows, set: { name: 'Shows', units: [] } },
      { kind: 'panel', id: other, set: { name: 'Other', units: [] } },
      { kind: 'page', id: page, set: { panelId: shows, name: 'Page', position: 0 } },
      { kind: 'element', id: uuid(), set: { pageId: page, kind: 'picture', tagId: null, label: '', x: 0, y: 0, w: 90, h: 90, settings: { pictureId: id, stateListId: list } } }, // prettier-ignore
    ]);
    const bundle = (panelId: string) => bench.services.panels.bundle(panelId);
    expect(bundle(shows)).toMatchObject({
      ok: true,
      value: { pictures: { [id]: { name: 'Drum', width: 40, height: 20 }, [byState]: { name: 'Running' } } },
    });
    expect(bundle(other)).toMatchObject({ ok: true, value: { pictures: {} } });
  });
  test('goes into the project file and comes out of it', async () => {
    const file = await bench.services.projectFiles.exportFile();
    if (!file.ok) throw new Error(file.problem.message);
    const zip = new Uint8Array(await new Response(file.value.zip).arrayBuffer());
    const { folder, remove } = newFolder();
    const there = await openBench(folder);
    try {
      expect(await drawn(id, there)).toBe('gone');
      expect((await there.services.projectFiles.importFile(zip, uuid())).ok).toBe(true);
      expect(await drawn(id, there)).toBe(await drawn(id));
    } finally {
      await there.close();
      remove();
    }
  });
  test('is kept while undo can bring it back, and dropped when nothing names it any more', async () => {
    const kept = async (colour: string): Promise<boolean> => {
      const { digest } = await taken(colour);
      const probe = uuid();
      await bench.services.projects.prune({ changes: 1000, versions: 20, unnamedHours: 0 });
      await bench.change('named', [
        { kind: 'picture', id: probe, set: { name: `Probe ${colour}`, type: 'svg', width: 1, height: 1, size: 1, digest } },
      ]);
      return (await drawn(probe)) !== 'gone';
    };
    expect(await kept('red')).toBe(true);
    expect(await kept('black')).toBe(false);
  });
  test('beyond what pictures of a project may have together is refused', async () => {
    const facts = { type: 'png' as const, width: 9, height: 9, size: 3_000_000 };
    const many = Array.from({ length: 14 }, (_, i) => ({
      kind: 'picture' as const,
      id: uuid(),
      set: { name: `Large ${i}`, ...facts, digest: String(i).padStart(64, '0') },
    }));
    await bench.change('many', many);
    expect(await bench.services.pictures.take(drum('white'))).toMatchObject({ ok: false, problem: { code: 'too-large' } });
  });
});
