'use client';
/** The scale drawn over the raw values that matter, with the live point on it. */
import { ticks } from 'd3-array';
import { CartesianGrid, ComposedChart, Line, ReferenceArea, ReferenceLine, ResponsiveContainer, Scatter, XAxis, YAxis } from 'recharts';
import { endsOf } from '@/core/panel/shownOn.ts';
import { LIMIT_KEYS, LIMIT_WORDS } from '@/core/ranges/limits.ts';
import { drawnSpan, healthMarks, toEngineering, toRaw } from '@/core/scaling/scale.ts';
import { engineeringText, type SignalDefinition } from '@/core/signal.ts';
import { asNumber, formatValue, fromJson } from '@/core/value/engineering.ts';
import { useTagView } from '../live/liveHooks.ts';

const STEPS = 120;

export function ScaleChart({ tagId, def }: { readonly tagId: string; readonly def: SignalDefinition }) {
  const view = useTagView(tagId);
  const raw = view?.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
  const rawNow = raw?.ok ? asNumber(raw.value) : null;
  const { from, to } = spanOf(def, rawNow);
  const line = Array.from({ length: STEPS + 1 }, (_, i) => {
    const x = from + ((to - from) * i) / STEPS;
    const eng = asNumber(toEngineering(def.scale, x).value);
    return { raw: x, eng: Number.isFinite(eng) ? eng : null };
  });
  const drawn = line.flatMap((p) => p.eng ?? []);
  const marks = healthMarks(def.scale).filter((mark) => mark.raw >= from && mark.raw <= to);
  const limits = LIMIT_KEYS.flatMap((key) => (def.limits && def.limits[key] !== null ? [{ key, at: def.limits[key] }] : []));
  const ends = [...(drawn.length > 0 ? drawn : [0, 1]), ...(def.display ? [def.display.low, def.display.high] : []), ...limits.map(({ at }) => at)];
  const engNow = rawNow === null ? null : asNumber(toEngineering(def.scale, rawNow).value);
  const point = rawNow !== null && engNow !== null && Number.isFinite(engNow) ? [{ raw: rawNow, eng: engNow }] : [];
  const unit = def.unit ? ` ${def.unit}` : '';
  const short = (value: number): string => formatValue(Number(value.toPrecision(6)), null);
  return (
    <section aria-label="The line drawn" className="card-flat flex h-full min-h-0 flex-col p-4">
      <h2 className="font-semibold">
        {point.length > 0 && engNow !== null && rawNow !== null ? (
          <>
            Now: raw <span className="num">{short(rawNow)}</span> is{' '}
            <span className="num">
              {engineeringText(def, engNow)}
              {unit}
            </span>
          </>
        ) : (
          <span className="quiet">No live value {view?.why ? `· ${view.why}` : ''}</span>
        )}
      </h2>
      <div className="min-h-0 flex-1">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={line} margin={{ top: 12, right: 16, bottom: 16, left: 8 }}>
            <CartesianGrid stroke="var(--color-base-300)" />
            <XAxis
              dataKey="raw"
              type="number"
              domain={[from, to]}
              ticks={ticks(from, to, 6)}
              tickFormatter={short}
              stroke="var(--color-base-content)"
              tick={{ fontSize: 11 }}
              label={{ value: 'raw', position: 'insideBottom', offset: -8, fontSize: 12, fill: 'var(--color-base-content)' }}
            />
            <YAxis
              type="number"
              domain={[Math.min(...ends), Math.max(...ends)]}
              ticks={ticks(Math.min(...ends), Math.max(...ends), 6)}
              tickFormatter={short}
              stroke="var(--color-base-content)"
              tick={{ fontSize: 11 }}
              width={64}
              label={{ value: def.unit || 'value', angle: -90, position: 'insideLeft', fontSize: 12, fill: 'var(--color-base-content)' }}
            />
            {def.range ? <ReferenceArea y1={def.range.low} y2={def.range.high} fill="var(--color-success)" fillOpacity={0.08} /> : null}
            {def.rawRange ? <ReferenceArea x1={def.rawRange.low} x2={def.rawRange.high} fill="var(--color-primary)" fillOpacity={0.05} /> : null}
            {limits.map(({ key, at }) => (
              <ReferenceLine
                key={key}
                y={at}
                stroke={key === 'high' || key === 'low' ? 'var(--color-warning)' : 'var(--color-error)'}
                strokeDasharray="6 4"
                label={{ value: LIMIT_WORDS[key], position: 'insideTopLeft', fontSize: 11, fill: 'var(--color-base-content)' }}
              />
            ))}
            {marks.map(({ raw: at, what, isFault }) => (
              <ReferenceLine
                key={what}
                x={at}
                stroke={isFault ? 'var(--color-error)' : 'var(--color-base-content)'}
                strokeDasharray="2 4"
                label={
                  isFault
                    ? {
                        value: what,
                        angle: -90,
                        position: 'center',
                        dx: at > (from + to) / 2 ? 9 : -9,
                        fontSize: 11,
                        fill: 'var(--color-base-content)',
                      }
                    : undefined
                }
              />
            ))}
            <Line dataKey="eng" type="linear" stroke="var(--color-primary)" strokeWidth={2} dot={false} isAnimationActive={false} />
            <Scatter data={point} dataKey="eng" fill="var(--color-accent)" stroke="var(--color-base-content)" isAnimationActive={false} />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
    </section>
  );
}

/** Raw values to draw: those of the scale, or the type's reach around what is there now. */
function spanOf(def: SignalDefinition, now: number | null): { readonly from: number; readonly to: number } {
  const marks = [...(drawnSpan(def.scale) ?? rawEnds(def) ?? [0, now === null || now === 0 ? 100 : now * 1.5])];
  if (def.rawRange) marks.push(def.rawRange.low, def.rawRange.high);
  for (const { raw } of healthMarks(def.scale)) marks.push(raw);
  if (now !== null) marks.push(now);
  const from = Math.min(...marks);
  const to = Math.max(...marks);
  const room = (to - from || 1) * 0.05;
  return { from: from - room, to: to + room };
}

/** The raw values of the ends between which it is shown, where its scale names none. */
function rawEnds(def: SignalDefinition): readonly number[] | null {
  const shown = endsOf(def);
  const raws = shown && [shown.low, shown.high].map((end) => toRaw(def.scale, end, false));
  return raws?.every((raw) => raw.ok) ? raws.map((raw) => (raw.ok ? Number(raw.value) : 0)) : null;
}
