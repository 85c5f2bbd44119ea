import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { v7 as uuid } from 'uuid';
import { proofState } from '@/core/check/proofState.ts';
import { toJson } from '@/core/value/engineering.ts';
import { askForRestore, listBackups } from '@/store/backups.ts';
import { newFolder } from '../support/server.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';

let bench: Bench;
let small: SmallProject;
const { folder, remove } = newFolder();

beforeAll(async () => {
  bench = await openBench(folder);
  small = await smallProject(bench, 1);
});
afterAll(async () => {
  await bench.close();
  remove();
});
const state = (): unknown => ({ ...bench.services.snapshot(), revision: 0 });
const name = (): string | undefined => bench.services.model.get('tag', small.tagId)?.name;

/** The whole file; each time anew, since what is imported is handed over. */
async function exported({ services }: Bench): Promise<Uint8Array> {
  const file = await services.projectFiles.exportFile();
  if (!file.ok) throw new Error(file.problem.message);
  return new Uint8Array(await new Response(file.value.zip).arrayBuffer());
}

/** The file as somebody makes it who knows its form: another content, and a manifest that fits. */
function edited(zip: Uint8Array, edit: (project: Record<string, unknown>) => Record<string, unknown>): Uint8Array {
  const { 'manifest.json': manifest, 'project.json': project, ...lists } = unzipSync(zip);
  const changed = strToU8(JSON.stringify(edit(JSON.parse(strFromU8(project as Uint8Array)) as Record<string, unknown>)));
  const told = JSON.parse(strFromU8(manifest as Uint8Array)) as { files: Record<string, string> };
  told.files['project.json'] = createHash('sha256').update(changed).digest('hex');
  return zipSync({ ...lists, 'project.json': changed, 'manifest.json': strToU8(JSON.stringify(told)) });
}

describe('a project exported and imported', () => {
  test('beside a project that went on is compared, replaces it as one change, and undo goes back', async () => {
    const { projectFiles, projects } = bench.services;
    await bench.change('scale', [{ kind: 'scale', id: small.tagId, set: { scale: { kind: 'power', exponent: -1 } } }]);
    const taken = state();
    const zip = await exported(bench);
    await bench.change('went on', [
      { kind: 'tag', id: small.tagId, set: { name: 'renamed' } },
      { kind: 'scale', id: small.tagId, set: null },
      { kind: 'tag', id: uuid(), set: newTag(small.deviceId, 'added', 'HR7') },
    ]);
    const later = state();
    const seen = await projectFiles.preview(zip.slice());
    expect(seen.ok && seen.value.differences.filter((d) => d.added.count + d.changed.count + d.removed.count > 0)).toMatchObject([
      { kind: 'tag', changed: { first: [{ name: 'bed', fields: ['name'] }] }, removed: { first: ['added'] } },
      { kind: 'scale', added: { first: ['bed'] } },
    ]);
    expect(state()).toEqual(later);
    expect((await projectFiles.importFile(zip.slice(), uuid())).ok).toBe(true);
    expect(state()).toEqual(taken);
    expect(await projectFiles.importFile(zip.slice(), uuid())).toMatchObject({ ok: false, problem: { code: 'nothing-new' } });
    await projects.step('undo');
    expect(state()).toEqual(later);
    await projects.step('redo');
    bench = await bench.reopen();
    expect(state()).toEqual(taken);
  });
  test('into an empty project brings everything, and into a project with the same names replaces them', async () => {
    const zip = await exported(bench);
    const other = await openBench();
    try {
      const theirs = await smallProject(other, 1);
      expect(theirs.tagId).not.toBe(small.tagId);
      expect((await other.services.projectFiles.importFile(zip.slice(), uuid())).ok).toBe(true);
      const { project: _a, revision: _b, ...got } = other.services.snapshot();
      const { project: _c, revision: _d, ...wanted } = bench.services.snapshot();
      expect(got).toEqual(wanted);
      expect(other.services.guard.all()).toEqual([]);
    } finally {
      await other.close();
    }
  });
  test('a proof that comes from another installation is seen elsewhere, until somebody sees the value here', async () => {
    const signal = bench.services.model.effective(small.tagId);
    if (!signal.ok) throw new Error(signal.problem.message);
    const made = { tagId: small.tagId, digest: signal.value.digest, outcome: 'proven' as const, witness: 'display', who: 'R. Vale', more: null };
    const seen = { sentence: 'They agree.', value: toJson(1), witness: toJson(1) };
    await bench.services.checks.proofs.add({ ...made, at: '2026-11-25T08:00:00.000Z', seen });
    const zip = await exported(bench);
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(true);
    const other = await openBench();
    try {
      await other.services.projectFiles.importFile(zip.slice(), uuid());
      const stateThere = (): string => proofState(other.services.checks.proofs.all(), signal.value.digest);
      expect([other.services.checks.proofs.isProven(small.tagId), stateThere()]).toEqual([false, 'elsewhere']);
      await other.services.checks.proofs.add({ ...made, at: '2026-11-25T09:00:00.000Z', seen });
      expect([other.services.checks.proofs.isProven(small.tagId), stateThere()]).toEqual([true, 'proven']);
      // What was seen here is not put aside by what comes in again, and goes back as what it is.
      await other.services.projectFiles.importFile(zip.slice(), uuid());
      expect(stateThere()).toBe('proven');
      await bench.services.projectFiles.importFile(await exported(other), uuid());
      expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(true);
    } finally {
      await other.close();
    }
  });
  test('a proof that a file was edited to hold is none, whatever it says of where it was made', async () => {
    const signal = bench.services.model.effective(small.tagId);
    if (!signal.ok) throw new Error(signal.problem.message);
    const [own] = bench.services.checks.proofs.all();
    if (!own) throw new Error('no proof');
    await bench.change('scaled', [{ kind: 'scale', id: small.tagId, set: { scale: { kind: 'power', exponent: 2 } } }]);
    const now = bench.services.model.effective(small.tagId);
    if (!now.ok) throw new Error(now.problem.message);
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(false);
    // The id of the installation and its seals stand in each file that it exports: they help nobody.
    const { digest } = now.value;
    const at = (hour: number): string => `2026-11-26T0${hour}:00:00.000Z`;
    for (const forged of [
      { digest, at: at(8) },
      { digest, at: at(9), seal: null },
    ]) {
      const zip = edited(await exported(bench), (project) => ({
        ...project,
        proofs: (project.proofs as readonly object[]).map((proof) => ({ ...proof, ...forged })),
      }));
      expect((await bench.services.projectFiles.importFile(zip, uuid())).ok).toBe(true);
      expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(false);
    }
    await bench.services.projects.step('undo');
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(true);
  });
  test('a proof belongs to the machine that says who it is: another identity ends it', async () => {
    const device = bench.services.model.get('device', small.deviceId);
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(true);
    await bench.change('identity', [{ kind: 'device', id: small.deviceId, set: { identityTagId: small.tagId, identity: 'KILN 7' } }]);
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(false);
    await bench.change('back', [{ kind: 'device', id: small.deviceId, set: { identityTagId: device?.identityTagId, identity: device?.identity } }]);
    expect(bench.services.checks.proofs.isProven(small.tagId)).toBe(true);
  });
  test('writing, reading and comparing a large one leaves the others their turns', async () => {
    const other = await openBench();
    try {
      const { deviceId } = await smallProject(other, 1);
      const tags = Array.from({ length: 12_000 }, (_, i) => ({ id: uuid(), i }));
      for (let from = 0; from < tags.length; from += 4000)
        await other.change(
          'many',
          tags.slice(from, from + 4000).flatMap(({ id, i }) => [
            { kind: 'tag' as const, id, set: newTag(deviceId, `t${i}`, `HR${i}`) },
            { kind: 'scale' as const, id, set: { scale: { kind: 'power', exponent: -1 } } },
          ]),
        );
      let turns = 0;
      let isOver = false;
      const count = (): void => {
        turns++;
        if (!isOver) setImmediate(count);
      };
      setImmediate(count);
      const zip = await exported(other);
      const whileWriting = turns;
      const seen = await other.services.projectFiles.preview(zip.slice());
      isOver = true;
      expect(seen.ok && seen.value.differences.find((d) => d.kind === 'scale')).toMatchObject({ same: 12_000, changed: { count: 0 } });
      expect(whileWriting).toBeGreaterThan(10);
      expect(turns - whileWriting).toBeGreaterThan(20);
    } finally {
      await other.close();
    }
  });
  test('a file that does not fit changes nothing', async () => {
    const before = state();
    expect(await bench.services.projectFiles.importFile(new Uint8Array([1, 2, 3]), uuid())).toMatchObject({
      ok: false,
      problem: { code: 'not-zip' },
    });
    expect(state()).toEqual(before);
  });
});

describe('backups', () => {
  test('one is made before a migration, and the project can go back to it', async () => {
    await bench.change('named', [{ kind: 'tag', id: small.tagId, set: { name: 'before' } }]);
    // The mark of a folder of an older version.
    await bench.close();
    rmSync(join(folder, 'manifest.json'));
    bench = await openBench(folder);
    const [backup] = await listBackups(folder);
    expect(backup?.why).toMatch(/^before schema \d+$/);
    await bench.change('named', [{ kind: 'tag', id: small.tagId, set: { name: 'after' } }]);
    expect((await bench.services.backups.restore(backup?.name ?? '')).ok).toBe(true);
    bench = await bench.reopen();
    expect(name()).toBe('before');
    const again = (await listBackups(folder)).find((b) => b.why === 'before a restore');
    expect((await bench.services.backups.restore(again?.name ?? '')).ok).toBe(true);
    bench = await bench.reopen();
    expect(name()).toBe('after');
  });
  test('the same one can be gone back to again and again: each time makes one backup, and it is not among those that go', async () => {
    const first = (await listBackups(folder)).find((b) => b.why.startsWith('before schema'))?.name ?? '';
    for (let time = 0; time < 10; time++) {
      const before = (await listBackups(folder)).length;
      expect([time, (await bench.services.backups.restore(first)).ok]).toEqual([time, true]);
      bench = await bench.reopen();
      expect(name()).toBe('before');
      const after = await listBackups(folder);
      expect(after.length).toBeLessThanOrEqual(before + 1);
      expect(after.filter((b) => b.why === 'before a restore').length).toBeLessThanOrEqual(9);
      expect(after.some((b) => b.name === first)).toBe(true);
    }
    await bench.change('named', [{ kind: 'tag', id: small.tagId, set: { name: 'after' } }]);
  });
  test('a name that is none, or leads out of the folder, is refused', async () => {
    for (const wrong of ['', '..', '../db', '2026-11-25T00-00-00 before a restore', '/etc'])
      expect(await askForRestore(folder, wrong)).toMatchObject({ ok: false, problem: { code: 'gone' } });
    expect(existsSync(join(folder, 'restore.json'))).toBe(false);
  });
  test('what a crash left half-copied, or a request that makes no sense, does no harm', async () => {
    mkdirSync(join(folder, 'backups/.draft-1'), { recursive: true });
    writeFileSync(join(folder, 'restore.json'), '{"name": "../../etc"}');
    bench = await bench.reopen();
    expect(name()).toBe('after');
    expect((await listBackups(folder)).every((b) => !b.name.startsWith('.'))).toBe(true);
    expect(readdirSync(folder)).not.toContain('restore.json');
  });
});
