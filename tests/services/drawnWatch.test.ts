/** Pages that are open anywhere are compared with their registers all the time; what disagrees for longer than two scans is told. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import type { PageCheck } from '@/core/check/proof.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { DrawnWatch } from '@/services/checks/drawnWatch.ts';
import type { DrawnPages } from '@/services/checks/drawnPages.ts';
import { FakeClock } from '../support/fakeClock.ts';

const SCAN_MS = 3000;
let clock: FakeClock;
let drawn: Partial<PageCheck>[];
let open: string[];
let kept: string[];
let asked: number;
let watch: DrawnWatch;

/** A project of one page with some elements, each with a tag of its own. */
function watching(elements: number): DrawnWatch {
  const all = Array.from({ length: elements }, (_, i) => ({ id: `e${i}`, pageId: 'page', kind: 'value', tagId: `t${i}` }));
  const model = {
    all: () => all,
    get: () => ({ name: 'bed_temp' }),
    effective: () => ({ ok: true, value: { periodMs: SCAN_MS } }),
  } as unknown as ProjectModel;
  const pages = {
    check: async (tagId: string) => {
      asked++;
      return drawn.map((each) => ({ elementId: `e${tagId.slice(1)}`, pageName: 'Kiln', label: '', drawn: '99.9', sample: 1, expected: '98.2', verdict: 'differs', ...each })); // prettier-ignore
    },
  } as unknown as DrawnPages;
  return new DrawnWatch(model, pages, clock, {
    openPages: () => open,
    keep: (tagId) => {
      kept.push(tagId);
      return () => void kept.splice(kept.indexOf(tagId), 1);
    },
  });
}

beforeEach(() => {
  clock = new FakeClock();
  drawn = [{}];
  open = ['page'];
  kept = [];
  asked = 0;
  watch = watching(1);
});
const after = async (ms: number): Promise<void> => {
  await clock.pass(ms);
  await watch.look();
};

describe('a text that is not what its register holds', () => {
  test('is not told while the page may still be drawing, and told after two scans', async () => {
    await watch.look();
    await after(2 * SCAN_MS);
    expect(watch.sentence).toBeNull();
    await after(1000);
    expect(watch.sentence).toBe('Kiln, bed_temp shows 99.9 where its controller holds 98.2, for 7 s.');
  });
  test('is told no more once it agrees, and the time begins anew', async () => {
    await watch.look();
    await after(7000);
    drawn = [{ verdict: 'consistent' }];
    await after(1000);
    expect(watch.sentence).toBeNull();
    drawn = [{}];
    await after(1000);
    await after(5000);
    expect(watch.sentence).toBeNull();
  });
  test('that is of a sample from long ago is told as one', async () => {
    drawn = [{ verdict: 'sample-gone', expected: null }];
    await watch.look();
    await after(9000);
    expect(watch.sentence).toBe('Kiln, bed_temp has shown 99.9 for 9 s though its value is another.');
  });
  test('is told where one of two screens shows it, in either order', async () => {
    for (const both of [
      [{ verdict: 'consistent' }, {}],
      [{}, { verdict: 'consistent' }],
    ] as Partial<PageCheck>[][]) {
      drawn = both;
      watch = watching(1);
      await watch.look();
      await after(7000);
      expect(watch.sentence).not.toBeNull();
    }
  });
  test('is not told of a page that nobody sees, or that was closed', async () => {
    drawn = [{ verdict: 'hidden' }];
    await watch.look();
    await after(9000);
    expect(watch.sentence).toBeNull();
    drawn = [{}];
    await watch.look();
    await after(9000);
    open = [];
    await after(1000);
    expect([watch.sentence, kept]).toEqual([null, []]);
  });
});

test('many tags have their turn a part at a time, and samples are kept only of what is open', async () => {
  watch = watching(60);
  await watch.look();
  expect([asked, kept.length]).toEqual([25, 60]);
  await watch.look();
  await watch.look();
  expect(asked).toBe(75);
  watch.close();
  expect(kept).toEqual([]);
});
