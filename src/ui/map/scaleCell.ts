/** A scale as it stands in a cell of the map: the name of a shared one, or a straight line as one writes it. */
import type { Tag, TagScale } from '@/core/project/entities.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { checkScale, scalePhrase, type Scale } from '@/core/scaling/scale.ts';
import { isNumberType } from '@/core/value/dataType.ts';
import type { ProjectView } from '../live/project.ts';

/** What a cell gives a tag; null for no scale. */
export type GivenScale = Omit<TagScale, 'id'> | null;

/** Empty for none. */
export function scaleText(tag: Tag, project: ProjectView): string {
  const scale = project.scale(tag.id);
  if (!scale) return '';
  const shared = scale.sharedId === null ? null : project.entity('sharedScale', scale.sharedId);
  return shared ? shared.name : ownText(scale.scale);
}

function ownText(scale: Scale): string {
  switch (scale.kind) {
    case 'none':
      return '';
    case 'linear':
      return `${scale.rawA}…${scale.rawB} → ${scale.engA}…${scale.engB}`;
    case 'power':
      return `× 10^${scale.exponent}`;
    case 'gain':
      return `× ${scale.gain}${scale.offset === 0 ? '' : scale.offset < 0 ? ` − ${-scale.offset}` : ` + ${scale.offset}`}`;
    default:
      return scalePhrase(scale);
  }
}

const NUMBER = String.raw`([+-]?\d+(?:\.\d+)?(?:e[+-]?\d+)?)`;
const SPAN = `${NUMBER}\\s*(?:…|\\.\\.\\.?|to)\\s*${NUMBER}`;
const LINE = new RegExp(`^${SPAN}\\s*(?:→|->|=>|is)\\s*${SPAN}$`, 'i');
const POWER = /^[×x*]\s*10\^([+-]?\d{1,2})$/i;
const GAIN = new RegExp(`^[×x*]\\s*${NUMBER}(?:\\s*([+−-])\\s*(\\d+(?:\\.\\d+)?(?:e[+-]?\\d+)?))?$`, 'i');

/** The name of a shared scale, `0…27648 → 0…150`, `× 10^-1`, `× 0.1 + 5`; empty takes the scale away. */
export function parseScaleText(text: string, tag: Tag, project: ProjectView): Result<GivenScale> {
  const plain = text.trim();
  if (plain === '') return ok(null);
  if (!isNumberType(tag.type)) return fail('scale', `${tag.name} is a ${tag.type}, and only numbers are scaled.`, 'Leave the cell empty.');
  if (plain === scaleText(tag, project)) return ok(project.scale(tag.id));
  const shared = project.sharedScales.find(({ name }) => nameKey(name) === nameKey(plain));
  if (shared) return ok({ scale: shared.scale, sharedId: shared.id });
  const own = lineIn(plain);
  if (!own)
    return fail('scale', `No shared scale is named “${plain.slice(0, 40)}”.`, 'Write the name of one, or a line as in 0…27648 → 0…150 or × 0.1 + 5.');
  const checked = checkScale(own);
  return checked.ok ? ok({ scale: own, sharedId: null }) : checked;
}

function lineIn(text: string): Scale | null {
  const line = LINE.exec(text);
  if (line) {
    const [rawA = NaN, rawB = NaN, engA = NaN, engB = NaN] = line.slice(1).map(Number);
    return { kind: 'linear', rawA, engA, rawB, engB };
  }
  const power = POWER.exec(text);
  if (power) return { kind: 'power', exponent: Number(power[1]) };
  const gain = GAIN.exec(text);
  if (!gain) return null;
  const offset = gain[3] === undefined ? 0 : Number(gain[3]) * (gain[2] === '+' ? 1 : -1);
  return { kind: 'gain', gain: Number(gain[1]), offset };
}
