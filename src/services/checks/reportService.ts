/** Reports on checks: of one run, or of everything; as HTML, CSV or PDF. */
import { proofState } from '@/core/check/proofState.ts';
import type { ReportFormat } from '@/core/check/report/formats.ts';
import { countsIn, rowOf, type CheckReport, type ReportedTag } from '@/core/check/report/report.ts';
import { reportCsv } from '@/core/check/report/reportCsv.ts';
import { reportHtml } from '@/core/check/report/reportHtml.ts';
import type { RunEntry } from '@/core/check/run.ts';
import { inSlices } from '@/core/inSlices.ts';
import type { Tag } from '@/core/project/entities.ts';
import { ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Trail } from '@/store/trail.ts';
import type { Proofs } from './proofs.ts';
import { whereOf, type RunNow, type RunService } from './runService.ts';

export interface ReportFile {
  readonly name: string;
  readonly type: string;
  readonly bytes: Uint8Array;
}

export class ReportService {
  readonly #model: ProjectModel;
  readonly #proofs: Proofs;
  readonly #runs: RunService;
  readonly #trail: Trail;
  readonly #clock: Clock;

  constructor(model: ProjectModel, proofs: Proofs, runs: RunService, trail: Trail, clock: Clock) {
    this.#model = model;
    this.#proofs = proofs;
    this.#runs = runs;
    this.#trail = trail;
    this.#clock = clock;
  }

  /** @param runId  null for all tags */
  async make(runId: string | null, format: ReportFormat): Promise<Result<ReportFile>> {
    const now = runId === null ? null : await this.#runs.get(runId);
    if (now && !now.ok) return now;
    const report = await this.#report(now?.value ?? null);
    const name = `${report.title}.${format}`;
    switch (format) {
      case 'html':
        return ok({ name, type: 'text/html; charset=utf-8', bytes: utf8(await inSlices(joined(reportHtml(report)))) });
      case 'csv':
        return ok({ name, type: 'text/csv; charset=utf-8', bytes: utf8(`\uFEFF${reportCsv(report)}`) });
      case 'pdf':
        return ok({ name, type: 'application/pdf', bytes: await pdfOf(report) });
    }
  }

  async #report(now: RunNow | null): Promise<CheckReport> {
    const [project] = this.#model.all('project');
    const entries = now?.entries ?? null;
    const tags = entries
      ? entries.map((entry) => ({ tag: this.#model.get('tag', entry.tagId), entry }))
      : this.#model.all('tag').map((tag) => ({ tag, entry: null as RunEntry | null }));
    return {
      title: now ? `Check of ${now.run.name}` : 'Proofs of all tags',
      project: project?.name ?? '',
      run: now?.run ?? null,
      counts: countsIn(entries),
      photos: await this.#photosOf(entries ?? []),
      rows: tags.map(({ tag, entry }) => rowOf(tag ? this.#reported(tag) : REMOVED, entry)),
      head: await this.#trail.head(),
      madeAt: isoTime(this.#clock),
      installation: this.#proofs.installation,
    };
  }

  async #photosOf(entries: readonly RunEntry[]): Promise<ReadonlyMap<string, string>> {
    const photos = new Map<string, string>();
    for (const digest of entries.flatMap((entry) => entry.photos)) {
      const bytes = await this.#runs.photo(digest);
      if (bytes.ok) photos.set(digest, Buffer.from(bytes.value).toString('base64'));
    }
    return photos;
  }

  #reported(tag: Tag): ReportedTag {
    const signal = this.#model.effective(tag.id);
    const known = this.#proofs.of(tag.id);
    return {
      name: tag.name,
      where: whereOf(this.#model, tag),
      unit: tag.unit,
      proofNow: proofState(known, signal.ok ? signal.value.digest : null),
      proof: this.#proofs.current(tag.id),
    };
  }
}

/** What became of it is told by its run. */
const REMOVED: ReportedTag = { name: '(removed since)', where: '', unit: '', proofNow: 'unproven', proof: null };

function utf8(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}

function* joined(parts: Iterable<string>): Generator<void, string> {
  const all: string[] = [];
  for (const part of parts) {
    all.push(part);
    yield;
  }
  return all.join('');
}

/** The library is large, and wanted seldom. */
async function pdfOf(report: CheckReport): Promise<Uint8Array> {
  const { reportPdf } = await import('./reportPdf.ts');
  const chunks: Uint8Array[] = [];
  await inSlices(reportPdf(report, (bytes) => chunks.push(bytes)));
  // What is left is handed over in the next turn.
  await new Promise((resolve) => setImmediate(resolve));
  return new Uint8Array(Buffer.concat(chunks));
}
