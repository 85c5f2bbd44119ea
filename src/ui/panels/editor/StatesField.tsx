'use client';
/** States of an element or of a shared list: value, text, look, symbol. */
import { Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { gapsIn, LOOK_WORDS, LOOKS, MOST_STATES, onOff, overlap, type Look, type State } from '@/core/panel/states.ts';
import { SYMBOLS, type SymbolName } from '@/core/panel/symbols.ts';
import { PictureSelect } from './PictureField.tsx';
import { LookMark } from '../drawings/parts.tsx';

interface StatesFieldProps {
  readonly states: readonly State[];
  /** What a state may have beside its text and look. */
  readonly shows: readonly ('symbol' | 'picture')[];
  readonly onKeep: (states: readonly State[]) => void;
}

export function StatesField({ states, shows, onKeep }: StatesFieldProps) {
  const clash = overlap(states);
  const gaps = gapsIn(states);
  const put = (at: number, part: Partial<State>): void => onKeep(states.map((state, i) => (i === at ? { ...state, ...part } : state)));
  const next = states.length === 0 ? 0 : Math.max(...states.map(({ at, to }) => to ?? at)) + 1;
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="text-xs font-semibold">States</legend>
      {states.map((state, i) => (
        <div key={i} className="flex items-center gap-1" data-state={state.at}>
          <ValueField label={`Value of state ${i + 1}`} state={state} onKeep={(part) => put(i, part)} />
          <input
            key={`${state.at} ${state.text}`}
            className="input input-xs min-w-0 flex-1"
            aria-label={`Text of state ${i + 1}`}
            defaultValue={state.text}
            maxLength={60}
            onBlur={(e) => e.target.value.trim() !== state.text && put(i, { text: e.target.value.trim() })}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          />
          <LookMark look={state.look} size={14} />
          <select
            className="select select-xs w-20"
            aria-label={`Look of state ${i + 1}`}
            value={state.look}
            onChange={(e) => put(i, { look: e.target.value as Look })}
          >
            {LOOKS.map((look) => (
              <option key={look} value={look} title={LOOK_WORDS[look]}>
                {LOOK_WORDS[look].split(',')[0]}
              </option>
            ))}
          </select>
          {shows.includes('symbol') ? (
            <select
              className="select select-xs w-20"
              aria-label={`Symbol of state ${i + 1}`}
              value={state.symbol ?? ''}
              onChange={(e) => put(i, { symbol: e.target.value === '' ? null : (e.target.value as SymbolName) })}
            >
              <option value="">same</option>
              {Object.entries(SYMBOLS).map(([name, words]) => (
                <option key={name} value={name}>
                  {words}
                </option>
              ))}
            </select>
          ) : null}
          {shows.includes('picture') ? (
            <PictureSelect
              className="select select-xs w-20"
              label={`Picture of state ${i + 1}`}
              none="same"
              value={state.pictureId ?? null}
              onPick={(pictureId) => put(i, { pictureId })}
            />
          ) : null}
          <button
            type="button"
            className="btn btn-xs btn-ghost btn-square"
            aria-label={`Remove state ${i + 1}`}
            onClick={() => onKeep(states.filter((_, at) => at !== i))}
          >
            <Trash2 size={13} aria-hidden />
          </button>
        </div>
      ))}
      {clash ? (
        <p className="is-bad text-xs" role="alert">
          {clash[0].text || clash[0].at} and {clash[1].text || clash[1].at} are states of the same value.
        </p>
      ) : null}
      {gaps.length > 0 ? (
        <p className="is-look text-xs">
          {gaps.join(', ')} {gaps.length === 1 ? 'is' : 'are'} none of these: the tag’s own text is shown then.
        </p>
      ) : null}
      <div className="flex gap-1">
        <button
          type="button"
          className="btn btn-xs"
          disabled={states.length >= MOST_STATES}
          onClick={() => onKeep([...states, { at: next, to: null, text: `State ${next}`, look: 'plain', symbol: null }])}
        >
          <Plus size={12} aria-hidden /> State
        </button>
        {states.length === 0 ? (
          <button type="button" className="btn btn-xs" onClick={() => onKeep(onOff('on', 'off'))}>
            On and off
          </button>
        ) : null}
      </div>
    </fieldset>
  );
}

/** `3`, or `3…7` for a range of values. */
function ValueField({ label, state, onKeep }: { readonly label: string; readonly state: State; readonly onKeep: (part: Partial<State>) => void }) {
  const shown = state.to === null ? String(state.at) : `${state.at}…${state.to}`;
  const [text, setText] = useState<string | null>(null);
  const read = text === null ? null : readValue(text);
  return (
    <input
      className={`input input-xs num w-14 ${text !== null && read === null ? 'input-error' : ''}`}
      aria-label={label}
      title="A value, or a range such as 3…7"
      value={text ?? shown}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (read && (read.at !== state.at || read.to !== state.to)) onKeep(read);
        setText(null);
      }}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}

function readValue(text: string): Pick<State, 'at' | 'to'> | null {
  const match = /^\s*(-?\d+(?:\.\d+)?)\s*(?:(?:…|\.\.+|to)\s*(-?\d+(?:\.\d+)?))?\s*$/.exec(text);
  if (!match) return null;
  const [at, to] = [Number(match[1]), match[2] === undefined ? null : Number(match[2])];
  return to !== null && to <= at ? null : { at, to };
}
