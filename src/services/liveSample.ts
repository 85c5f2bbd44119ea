/** A sample as it goes to pages and programs. */
import type { LiveSample } from '@/core/live/messages.ts';
import { wireToJson } from '@/core/live/wireJson.ts';
import { toJson } from '@/core/value/engineering.ts';
import type { Sample } from '@/runtime/liveTable.ts';

export function liveSample(sample: Sample): LiveSample {
  return {
    tagId: sample.tagId,
    n: sample.n,
    at: sample.at,
    roundTripMs: sample.roundTripMs,
    sourceAt: sample.sourceAt,
    ...(sample.signal?.index ? { place: sample.signal.canonical } : {}),
    freshForMs: Number.isFinite(sample.freshForMs) ? sample.freshForMs : null,
    wire: sample.wire && wireToJson(sample.wire),
    raw: sample.raw === null ? null : toJson(sample.raw),
    eng: sample.eng === null ? null : toJson(sample.eng),
    text: sample.text,
    quality: sample.quality,
    ...(sample.limit === null ? {} : { limit: sample.limit }),
    broken: sample.broken,
  };
}
