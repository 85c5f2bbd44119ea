'use client';
/** Takes a value by keypad or keyboard: says its limits, and before it is sent what the controller will really hold. */
import { Delete } from 'lucide-react';
import { useRef, useState } from 'react';
import { heldInstead } from '@/core/nearestHeld.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import type { Element } from '@/core/project/entities.ts';
import { parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { rangeIn } from '@/core/units/shownIn.ts';
import { asNumber } from '@/core/value/engineering.ts';
import { hasRadix } from '@/core/value/radix.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { Field } from '../../parts/Field.tsx';
import { useStage } from '../SceneContext.tsx';
import { usePress } from '../usePress.ts';
import { useNumber, type Drawn } from '../useValues.ts';
import { KeyRows, letterRows, numberRows } from './KeyRows.tsx';
import { endText } from './useEnds.ts';

interface EntryPadProps {
  readonly element: Element;
  readonly drawn: Drawn;
  /** The tag as it is shown here: what is entered is in its unit. */
  readonly def: SignalDefinition;
  readonly label: string;
  readonly onClose: () => void;
}

export function EntryPad({ element, drawn, def, label, onClose }: EntryPadProps) {
  const { least, most, shows } = settingsOf('entry', element);
  const [low, high] = [useNumber(least), useNumber(most)];
  const { say } = useStage().scene;
  const [text, setText] = useState('');
  const [isShifted, setShifted] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const { press, busy } = usePress(element);
  const isHex = shows === 'hex' && hasRadix(def.type, 0);
  const entered = isHex && /^[0-9a-f]+$/i.test(text.trim()) ? `16#${text.trim()}` : text;
  const parsed = text.trim() !== '' ? parseFor(def, entered) : null;
  const own = boundsOf(drawn, { ...def, range: null }, low, high);
  const bounds = boundsOf(drawn, def, low, high);
  const number = parsed?.ok ? asNumber(parsed.value) : null;
  // Of its own; the range of the tag is told by the plan.
  const outside =
    number !== null && own && (number < own.low || number > own.high)
      ? `${entered} is outside ${boundsText(own)}${def.unit ? ` ${def.unit}` : ''}.`
      : null;
  const plan = parsed?.ok && outside === null ? planWrite(def, parsed.value) : null;
  const instead = parsed?.ok && plan?.ok ? heldInstead(def, parsed.value, plan.value) : null;
  const wrong = problem ?? (parsed && !parsed.ok ? parsed.problem.message : (outside ?? (plan && !plan.ok ? plan.problem.message : undefined)));
  const enter = (next: string): void => {
    setText(next);
    setProblem(null);
    input.current?.focus();
  };
  const send = async (): Promise<void> => {
    const unit = def.unit === drawn.def?.unit ? undefined : def.unit;
    const done = await press({ value: entered, ...(unit === undefined ? {} : { unit }) });
    if (done.ok) onClose();
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  const unit = def.unit ? ` ${def.unit}` : '';
  const isText = def.type.kind === 'text';
  const key = (name: string): void => {
    if (name === '⌫') enter([...text].slice(0, -1).join(''));
    else if (name === 'C') enter('');
    else if (name === '±') enter(text.startsWith('-') ? text.slice(1) : `-${text}`);
    else if (name === '⇧') setShifted(!isShifted);
    else enter(text + (name === 'space' ? ' ' : name));
  };
  return (
    <Dialog title={label} onClose={onClose} wide={isText}>
      <form
        noValidate
        className="flex flex-col gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (plan?.ok && !instead && !busy) void send();
        }}
      >
        <Field
          label={say('New value')}
          unit={def.unit || undefined}
          help={
            bounds
              ? `${boundsText(bounds)}${unit} · ${say('now {1}', drawn.text + unit)}`
              : isText
                ? say('up to {1} characters', String(def.type.room))
                : say('now {1}', drawn.text + unit)
          }
          error={wrong}
        >
          {(ids) => (
            <input
              {...ids}
              ref={input}
              autoFocus
              className="input input-lg num w-full text-xl"
              inputMode="none"
              autoComplete="off"
              value={text}
              onChange={(e) => enter(e.target.value)}
            />
          )}
        </Field>
        <div className="quiet min-h-6" data-will-hold aria-live="polite">
          {instead ? (
            <span className="is-look flex flex-wrap items-center gap-2">
              {say('The controller cannot hold exactly that. Take')}
              {instead.map((each) => (
                <button key={each} type="button" className="btn btn-sm btn-outline num" onClick={() => enter(each)}>
                  {each}
                  {unit}
                </button>
              ))}
            </span>
          ) : plan?.ok ? (
            say('The controller will hold {1}.', plan.value.text + unit)
          ) : (
            ''
          )}
        </div>
        <KeyRows rows={isText ? letterRows(isShifted) : numberRows(isHex)} onKey={key} icons={{ '⌫': <Delete size={20} aria-hidden /> }} />
        <div className="mt-2 flex justify-end gap-2">
          <button type="button" className="btn btn-lg btn-ghost" onClick={onClose}>
            {say('Cancel')}
          </button>
          <button type="submit" className="btn btn-lg btn-primary" disabled={!plan?.ok || instead !== null || busy}>
            {say(busy ? 'Writing …' : 'Write')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

interface Bounds {
  readonly low: number;
  readonly high: number;
}

/** The narrower of the element's own ends and the range of its tag, in the unit that is shown. */
function boundsOf({ def: own }: Drawn, def: SignalDefinition, low: number | null, high: number | null): Bounds | null {
  const shown = (value: number): number => (own ? rangeIn(own, def, { low: value, high: value }).low : value);
  const [least, most] = [low === null ? -Infinity : shown(low), high === null ? Infinity : shown(high)];
  const { range } = def;
  const bounds = { low: Math.max(least, range?.low ?? -Infinity), high: Math.min(most, range?.high ?? Infinity) };
  return Number.isFinite(bounds.low) || Number.isFinite(bounds.high) ? bounds : null;
}

function boundsText({ low, high }: Bounds): string {
  if (!Number.isFinite(low)) return `up to ${endText(high)}`;
  return Number.isFinite(high) ? `${endText(low)} to ${endText(high)}` : `at least ${endText(low)}`;
}
