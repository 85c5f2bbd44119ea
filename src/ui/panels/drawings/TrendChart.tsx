'use client';
/** Lines over the last minutes, told apart by dashes and by name as well as by colour. */
import { Line, LineChart, XAxis, YAxis } from 'recharts';
import { trendAxis } from '@/core/panel/trendAxis.ts';
import { textEms } from '@/core/panel/textWidth.ts';
import type { Range } from '@/core/ranges/range.ts';
import type { QualityLevel } from '@/core/value/quality.ts';

export interface TrendPoint {
  readonly at: number;
  /** Null where there was no value. */
  readonly numbers: readonly (number | null)[];
}
export interface TrendLine {
  readonly name: string;
  readonly unit: string;
  /** Of its last value. */
  readonly level: QualityLevel;
}

interface TrendChartProps {
  readonly points: readonly TrendPoint[];
  readonly lines: readonly TrendLine[];
  /** Null where they follow from what is drawn. */
  readonly ends: Range | null;
  readonly minutes: number;
  readonly w: number;
  readonly h: number;
}

const STROKES = [
  'var(--color-primary)',
  'var(--color-accent)',
  'var(--color-error)',
  'var(--color-success)',
  'var(--color-secondary)',
  'var(--color-base-content)',
];
const TICK_PX = 11;
const NAME_PX = 12;
const NAME_ROW_PX = 18;
/** Its stroke, and what lies between it and the next. */
const NAME_SIDES_PX = 22 + 6 + 16;

/** How many rows of names there are, as they wrap. */
function rowsOf(widths: readonly number[], w: number): number {
  let [rows, at] = [1, 0];
  for (const width of widths) {
    if (at > 0 && at + width > w) [rows, at] = [rows + 1, 0];
    at += width;
  }
  return rows;
}

const DASHES = [undefined, '6 3', '2 3', '10 3', '6 3 2 3', '1 4'];

export function TrendChart({ points, lines, ends, minutes, w, h }: TrendChartProps) {
  const now = points.at(-1)?.at ?? 0;
  const data = points.map(({ at, numbers }) => ({ at, ...Object.fromEntries(numbers.map((number, i) => [`v${i}`, number])) }));
  const time = (at: number): string =>
    new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit', second: minutes <= 5 ? '2-digit' : undefined });
  // One line is named by the element itself.
  const hasNames = lines.length > 1;
  const nameWidths = lines.map(
    ({ name, unit, level }) => NAME_SIDES_PX + textEms(`${name} ${unit}${level === 'good' ? '' : ' ✕ no value'}`, 'sans') * NAME_PX,
  );
  const height = Math.max(40, h - (hasNames ? rowsOf(nameWidths, w) * NAME_ROW_PX : 0));
  const axis = trendAxis(
    points.flatMap(({ numbers }) => numbers),
    ends,
    Math.max(1, Math.floor((height - 36) / 28)),
  );
  return (
    <div className="flex h-full flex-col">
      <LineChart width={Math.max(60, w)} height={height} data={data} margin={{ top: 6, right: 10, bottom: 0, left: 0 }}>
        <XAxis
          dataKey="at"
          type="number"
          domain={[now - minutes * 60_000, now]}
          ticks={[now - minutes * 60_000, now - minutes * 30_000, now]}
          tickFormatter={time}
          allowDataOverflow
          tick={{ fontSize: 11, fill: 'var(--color-secondary)' }}
          stroke="var(--color-base-300)"
        />
        <YAxis
          domain={[axis.low, axis.high]}
          ticks={[...axis.ticks]}
          tickFormatter={axis.text}
          interval={0}
          allowDataOverflow
          width={Math.max(24, ...axis.ticks.map((tick) => textEms(axis.text(tick), 'sans') * TICK_PX + 12))}
          tick={{ fontSize: TICK_PX, fill: 'var(--color-secondary)' }}
          stroke="var(--color-base-300)"
        />
        {lines.map((line, i) => (
          <Line
            key={i}
            dataKey={`v${i}`}
            name={line.name}
            stroke={STROKES[i] ?? 'currentColor'}
            strokeDasharray={DASHES[i]}
            strokeWidth={1.75}
            dot={false}
            isAnimationActive={false}
            connectNulls={false}
          />
        ))}
      </LineChart>
      {hasNames ? (
        <ul className="flex flex-wrap gap-x-4 px-2 text-[12px]">
          {lines.map((line, i) => (
            <li key={i} className="flex items-center gap-1.5">
              <svg width={22} height={6} aria-hidden>
                <path d="M0 3H22" stroke={STROKES[i]} strokeDasharray={DASHES[i]} strokeWidth={2} />
              </svg>
              {line.name} {line.unit}
              {line.level === 'good' ? null : (
                <span className={line.level === 'bad' ? 'is-bad' : 'is-look'}>{line.level === 'bad' ? '✕ no value' : '◑ look'}</span>
              )}
            </li>
          ))}
        </ul>
      ) : null}
    </div>
  );
}
