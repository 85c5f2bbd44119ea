/** State is always a mark and a word, never colour alone. */
import { Check, ChevronDown, ChevronsDown, ChevronsUp, ChevronUp, Circle, Contrast, Equal, MapPin, Minus, RotateCcw, X } from 'lucide-react';
import type { ProofState } from '@/core/check/proofState.ts';
import { LIMIT_WORDS, type LimitKey } from '@/core/ranges/limits.ts';
import type { TagView } from '../live/liveClient.ts';
import type { QualityLevel, QualityReason } from '@/core/value/quality.ts';

const LEVELS = {
  good: { icon: Circle, word: 'good', tone: 'is-good' },
  uncertain: { icon: Contrast, word: 'uncertain', tone: 'is-look' },
  bad: { icon: X, word: 'bad', tone: 'is-bad' },
} as const;

export function QualityMark({
  level,
  reason,
  why,
  quietWhenGood = false,
}: {
  readonly level: QualityLevel;
  readonly reason: QualityReason | null;
  readonly why: string;
  readonly quietWhenGood?: boolean;
}) {
  const { icon: Icon, word, tone } = LEVELS[level];
  return (
    <span className={`inline-flex items-center gap-1 align-middle whitespace-nowrap ${tone}`} title={why || word} data-quality={level}>
      <Icon size={level === 'good' ? 11 : 14} fill={level === 'good' ? 'currentColor' : 'none'} aria-hidden />
      <span className={level === 'good' && quietWhenGood ? 'sr-only' : ''}>{level === 'bad' ? shortWord(reason) : word}</span>
    </span>
  );
}

const SHORT_WORDS: Partial<Record<QualityReason, string>> = {
  waiting: 'waiting',
  'server-silent': 'server silent',
  silent: 'silent',
  aged: 'silent',
  'link-down': 'silent',
  refused: 'refused',
  'not-available': 'none',
  'input-bad': 'input bad',
  'no-result': 'no result',
  'broken-wire': 'broken wire',
  'short-circuit': 'loop fault',
  'scale-limits': 'no value',
};

/** One word for a grid cell; the whole reason is in the tooltip and on the strip. */
function shortWord(reason: QualityReason | null): string {
  return (reason && SHORT_WORDS[reason]) ?? 'bad';
}

const LIMITS: Readonly<Record<LimitKey, { readonly icon: typeof Check; readonly tone: string }>> = {
  highHigh: { icon: ChevronsUp, tone: 'is-bad' },
  high: { icon: ChevronUp, tone: 'is-look' },
  low: { icon: ChevronDown, tone: 'is-look' },
  lowLow: { icon: ChevronsDown, tone: 'is-bad' },
};

/** The limit that a value may be said to be beyond: none where there is no value. */
function limitIn({ sample, level }: TagView): LimitKey | null {
  return level === 'bad' ? null : (sample?.limit ?? null);
}

export const isBeyondLimit = (view: TagView): boolean => limitIn(view) !== null;

/** Nothing where there is none. */
export function LimitMark({ view }: { readonly view: TagView }) {
  const limit = limitIn(view);
  if (limit === null) return null;
  const { icon: Icon, tone } = LIMITS[limit];
  return (
    <span
      className={`inline-flex items-center gap-1 align-middle whitespace-nowrap ${tone}`}
      title={`beyond its limit ${LIMIT_WORDS[limit]}`}
      data-limit={limit}
    >
      <Icon size={14} aria-hidden />
      {LIMIT_WORDS[limit]}
    </span>
  );
}

/** What there is to say of a value in a narrow cell: that it is beyond a limit, where it is good beside. */
export function StateOf({ view }: { readonly view: TagView }) {
  return view.level === 'good' && isBeyondLimit(view) ? (
    <LimitMark view={view} />
  ) : (
    <QualityMark level={view.level} reason={view.reason} why={view.why} quietWhenGood />
  );
}

const PROOFS = {
  proven: { icon: Check, tone: 'is-good', help: 'a witness saw this value, and nothing on the signal path changed since' },
  failed: { icon: X, tone: 'is-bad', help: 'a witness saw another value' },
  changed: { icon: RotateCcw, tone: 'is-look', help: 'it was proven, and its signal path changed since' },
  elsewhere: { icon: MapPin, tone: 'is-look', help: 'it was proven in another installation, perhaps at another machine: check it here' },
  unproven: { icon: Circle, tone: 'quiet', help: 'no witness has seen this value yet' },
  consistent: { icon: Equal, tone: 'quiet', help: 'wire and panel agree, which both use the mapping: no witness has seen it yet' },
  waived: { icon: Minus, tone: 'quiet', help: 'somebody has said why it is not looked at' },
} as const satisfies Record<ProofState, { icon: typeof Check; tone: string; help: string }>;

export function ProofMark({ state }: { readonly state: ProofState }) {
  const { icon: Icon, tone, help } = PROOFS[state];
  return (
    <span className={`inline-flex items-center gap-1 align-middle whitespace-nowrap ${tone}`} title={help} data-proof={state}>
      <Icon size={14} aria-hidden />
      {state}
    </span>
  );
}

export function ConsistentMark({ consistent }: { readonly consistent: boolean | null }) {
  if (consistent === null) return <span className="quiet">no page open</span>;
  return consistent ? (
    <span className="inline-flex items-center gap-1">
      <Equal size={14} aria-hidden /> consistent
    </span>
  ) : (
    <span className="is-bad inline-flex items-center gap-1">
      <X size={14} aria-hidden /> differs
    </span>
  );
}
