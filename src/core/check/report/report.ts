/** What was proven of a machine, how, and by which witness; what differs, and what is open. The same for screen, paper and spreadsheet. */
import { HOWS, WITNESSES, type Proof } from '../proof.ts';
import type { ProofState } from '../proofState.ts';
import { countsOf, type Run, type RunCounts, type RunEntry } from '../run.ts';

export interface ReportRow {
  readonly name: string;
  readonly where: string;
  readonly unit: string;
  /** In the run, or of the tag as it is now where it is about no run. */
  readonly state: string;
  /** How far it is proven now: a change since the run shows here. */
  readonly proofNow: ProofState;
  readonly sentence: string;
  readonly witness: string;
  readonly how: string;
  readonly who: string;
  readonly at: string;
  /** Mistakes that the values seen say nothing against. */
  readonly open: readonly string[];
  readonly notes: readonly string[];
  /** Digests of photos; their bytes are in {@link CheckReport.photos}. */
  readonly photos: readonly string[];
  readonly finding: string;
  readonly cure: string;
}

export interface CheckReport {
  readonly title: string;
  readonly project: string;
  /** Null where it is about all tags, whatever run they were checked in. */
  readonly run: Pick<Run, 'name' | 'who' | 'witness' | 'how' | 'begunAt' | 'endedAt'> | null;
  readonly counts: RunCounts | null;
  readonly rows: readonly ReportRow[];
  /** JPEG in Base64, by digest. */
  readonly photos: ReadonlyMap<string, string>;
  /** Where the trail stood when the report was made. */
  readonly head: { readonly hash: string; readonly records: number };
  readonly madeAt: string;
  /** The installation of Mill Latch that made it. */
  readonly installation: string;
}

export interface ReportedTag {
  readonly name: string;
  readonly where: string;
  readonly unit: string;
  readonly proofNow: ProofState;
  /** What counts of its signal path as it is now. */
  readonly proof: Proof | null;
}

const SIDES = { mapping: 'the mapping', panel: 'the panel', unknown: 'not known whose fault' } as const;

export function rowOf(tag: ReportedTag, entry: RunEntry | null): ReportRow {
  const { name, where, unit, proofNow, proof } = tag;
  const witness = proof ? ((WITNESSES as Readonly<Record<string, string>>)[proof.witness] ?? proof.witness) : '';
  return {
    name,
    where,
    unit,
    state: entry ? entry.state : proofNow,
    proofNow,
    sentence: entry?.sentence || (proof?.seen.sentence ?? ''),
    witness,
    how: proof?.more ? HOWS[proof.more.how] : '',
    who: entry?.who || (proof?.who ?? ''),
    at: entry?.at ?? proof?.at ?? '',
    open: proof?.more?.open ?? [],
    notes: entry?.notes ?? [],
    photos: entry?.photos ?? [],
    finding: entry?.side ? `${SIDES[entry.side]}: ${entry.finding}` : '',
    cure: entry?.cure ?? '',
  };
}

export function countsIn(entries: readonly RunEntry[] | null): RunCounts | null {
  return entries && countsOf(entries);
}

/** What the head of the trail is good for, and what it is not. */
export const HEAD_SAYS = [
  'The head is a digest of every record of the trail up to this report; each record names the one before it, and is signed with the key of this data folder. Whoever has written the head down can tell later whether a record was changed, taken out or put in between: tampering becomes evident.',
  'It cannot show whether what a person entered was true, nor what nobody entered; and whoever holds the data folder holds the key. Keep this report, or its head, where the data folder is not.',
] as const;

export const COLUMNS = ['Tag', 'Where', 'Outcome', 'Proof now', 'What was compared', 'Witness', 'By', 'When (UTC)'] as const;

export function cellsOf(row: ReportRow): readonly string[] {
  const { name, where, unit, state, proofNow, sentence, witness, how, who, at } = row;
  const compared = [
    sentence,
    ...row.notes.map((note) => `Note: ${note}`),
    row.photos.length > 0 && `Photos: ${row.photos.length}`,
    row.finding && `Finding: ${row.finding}`,
    row.cure && `Cured: ${row.cure}`,
  ];
  return [
    unit === '' ? name : `${name} [${unit}]`,
    where,
    state,
    proofNow,
    compared.filter(Boolean).join(' '),
    how === '' || witness === '' ? witness : `${witness}, ${how}`,
    who,
    at === '' ? '' : at.slice(0, 19).replace('T', ' '),
  ];
}

/** What is told above the table, line by line. */
export function headingOf({ project, run, counts, rows, madeAt }: CheckReport): readonly (readonly [string, string])[] {
  const lines: (readonly [string, string])[] = [['Project', project]];
  if (run) {
    lines.push(['Run', run.name]);
    lines.push(['Against', `${WITNESSES[run.witness]}; each value ${HOWS[run.how]}`]);
    lines.push(['By', run.who]);
    lines.push(['Begun', time(run.begunAt)]);
    lines.push(['Ended', run.endedAt === null ? 'still going on' : time(run.endedAt)]);
  }
  if (counts)
    lines.push([
      'Came to',
      `${counts.all} tags: ${counts.agree} agree, ${counts.failed} differ, ${counts.skipped} skipped, ${counts.waived} waived, ${counts.open} open`,
    ]);
  else {
    const count = (state: ProofState): number => rows.filter(({ proofNow }) => proofNow === state).length;
    const states: readonly ProofState[] = ['proven', 'consistent', 'failed', 'changed', 'elsewhere', 'waived', 'unproven'];
    lines.push(['Came to', `${rows.length} tags: ${states.map((state) => `${count(state)} ${state}`).join(', ')}`]);
  }
  return [...lines, ['Report made', time(madeAt)]];
}

function time(iso: string): string {
  return `${iso.slice(0, 19).replace('T', ' ')} UTC`;
}
