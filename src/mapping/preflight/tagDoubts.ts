/** What is doubtful of one tag by itself. */
import type { Tag } from '@/core/project/entities.ts';
import { disagreementOf } from '@/core/project/listedType.ts';
import type { Result } from '@/core/result.ts';
import { toEngineering, unitGiven } from '@/core/scaling/scale.ts';
import { unitRelation } from '@/core/units/unitLine.ts';
import { formatDataType } from '@/core/value/dataType.ts';
import { asNumber } from '@/core/value/engineering.ts';
import type { EffectiveSignal } from '../effective.ts';
import type { Doubt, PreflightProject } from './doubt.ts';

export function tagDoubts(project: PreflightProject, tag: Tag, signal: Result<EffectiveSignal>): readonly Doubt[] {
  const about = { kind: 'tag', id: tag.id } as const;
  /** Made when something is told: of most tags nothing is. */
  const path = (): string => project.pathOf(tag);
  const doubts: Doubt[] = [];
  if (tag.isGone)
    doubts.push({
      code: 'gone-from-list',
      severity: 'warning',
      message: `${path()} is no longer in its list, and something still uses it.`,
      about,
    });
  const disagreement = disagreementOf(tag);
  if (disagreement)
    doubts.push({
      code: 'type-disagrees',
      severity: 'warning',
      message: `${path()} is read as ${tag.type}. ${disagreement.message}`,
      about,
      remedy: { button: `Read as ${disagreement.listed}`, label: `${path()} read as ${disagreement.listed}`, changes: [disagreement.remedy] },
    });
  if (!signal.ok) {
    doubts.push({ code: 'unfit', severity: 'error', message: `${path()}: ${signal.problem.message}`, about });
    return doubts;
  }
  const { def, writable, calculation, access } = signal.value;
  const isWritten = access === 'readWrite';
  if (isWritten && !writable && !calculation)
    doubts.push({
      code: 'read-only-place',
      severity: 'error',
      message: `${path()} is set to be written, and lies where nothing can be written alone.`,
      about,
      remedy: { button: 'Only read it', label: `${path()} only read`, changes: [{ kind: 'tag', id: tag.id, set: { access: 'read' } }] },
    });
  for (const { message, remedy } of calculation?.doubts ?? [])
    doubts.push({ code: 'calculation', severity: 'warning', message: `${path()}: ${message} ${remedy ?? ''}`.trim(), about });
  const isNumber = def.type.kind === 'integer' || def.type.kind === 'real';
  const isEnumerated = def.names !== undefined;
  if (isWritten && writable && isNumber && !isEnumerated && def.range === null)
    doubts.push({ code: 'no-range', severity: 'note', message: `${path()} is written, and nothing says within which range.`, about });
  const reach = reachOf(signal.value);
  if (def.range && reach && (def.range.high > reach.high || def.range.low < reach.low))
    doubts.push({
      code: 'range-beyond-type',
      severity: 'warning',
      message: `${path()} is expected to be ${def.range.low} to ${def.range.high}, and a ${formatDataType(def.type)} with its scale reaches ${shown(reach.low)} to ${shown(reach.high)}.`,
      about,
    });
  const given = unitGiven(def.scale);
  if (given !== null && def.unit !== '' && ['converts', 'clash'].includes(unitRelation(given, def.unit)))
    doubts.push({
      code: 'scale-unit',
      severity: 'error',
      message: `${path()} is scaled to ${given}, and ${def.unit} is written beside it.`,
      about,
      remedy: { button: `Write ${given}`, label: `unit of ${path()} is ${given}`, changes: [{ kind: 'tag', id: tag.id, set: { unit: given } }] },
    });
  if (tag.unit !== '' && /^[A-Z]*INT\b/.test(tag.type) && !calculation && !project.scale(tag.id))
    doubts.push({
      code: 'no-scale',
      severity: 'note',
      message: `${path()} is a whole number in ${tag.unit} without a scale: it may be a raw count.`,
      about,
    });
  return doubts;
}

/** The engineering values that the type can come to. */
function reachOf({ def }: EffectiveSignal): { readonly low: number; readonly high: number } | null {
  if (def.type.kind !== 'integer') return null;
  const ends = [def.type.min, def.type.max].map((end) => asNumber(toEngineering(def.scale, end).value));
  const [a, b] = ends;
  return typeof a === 'number' && typeof b === 'number' ? { low: Math.min(a, b), high: Math.max(a, b) } : null;
}

function shown(value: number): string {
  return String(Number(value.toPrecision(10)));
}
