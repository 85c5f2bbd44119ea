'use client';
/** Who is signed in at a glass: by name and PIN, for as long as the server says. */
import { Delete, Lock } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import type { SignedIn } from '@/core/panel/levels.ts';
import type { Scene } from '@/core/panel/scene.ts';
import type { GlassClient } from '../live/glassClient.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { KeyRows } from './drawings/KeyRows.tsx';

export interface Signing {
  /** Null for nobody. */
  readonly who: SignedIn | null;
  /** What a press carries. */
  readonly session: string | undefined;
  /** Lets somebody sign in for something that needs a level, and then does it. */
  readonly ask: (level: number, then?: () => void) => void;
}

export const NOBODY: Signing = { who: null, session: undefined, ask: () => undefined };

export interface Asked {
  readonly level: number;
  readonly then: () => void;
}

/** @param isScreen false where the panel is only looked at */
export function useSigning(
  client: GlassClient,
  isScreen: boolean,
): { readonly signing: Signing; readonly asked: Asked | null; readonly close: () => void } {
  const signed = useSyncExternalStore(
    (listener) => client.onChange(listener),
    () => client.signed,
    () => null,
  );
  const [asked, setAsked] = useState<Asked | null>(null);
  useEffect(() => {
    if (!isScreen || signed === null) return;
    const touch = (): void => client.touch();
    window.addEventListener('pointerdown', touch);
    window.addEventListener('keydown', touch);
    return () => {
      window.removeEventListener('pointerdown', touch);
      window.removeEventListener('keydown', touch);
    };
  }, [client, isScreen, signed]);
  const signing = useMemo<Signing>(
    () => ({
      who: signed,
      session: signed?.token,
      ask: (level, then = () => undefined) => setAsked({ level, then }),
    }),
    [signed],
  );
  return { signing, asked, close: () => setAsked(null) };
}

const PIN_ROWS = [
  ['7', '8', '9'],
  ['4', '5', '6'],
  ['1', '2', '3'],
  ['C', '0', '⌫'],
];

interface SignInDialogProps {
  readonly client: GlassClient;
  readonly scene: Scene;
  readonly who: SignedIn | null;
  readonly asked: Asked;
  readonly onClose: () => void;
}

export function SignInDialog({ client, scene: { people, say }, who, asked: { level, then }, onClose }: SignInDialogProps) {
  const [personId, setPerson] = useState(people.length === 1 ? (people[0]?.id ?? null) : null);
  const [pin, setPin] = useState('');
  const [problem, setProblem] = useState('');
  const [isBusy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const person = people.find(({ id }) => id === personId) ?? null;
  const enter = (next: string): void => {
    setPin(next.replace(/\D/g, '').slice(0, 12));
    setProblem('');
    input.current?.focus();
  };
  const send = async (): Promise<void> => {
    if (!person || pin === '' || isBusy) return;
    setBusy(true);
    const done = await client.signIn(person.id, pin);
    setBusy(false);
    setPin('');
    if (!done.ok) return setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`.trim());
    if (done.value.level < level)
      return setProblem(say('{1} has level {2}; this needs level {3}.', person.name, String(done.value.level), String(level)));
    onClose();
    then();
  };
  const needs = level > (who?.level ?? 0) ? say('This needs level {1}.', String(level)) : '';
  return (
    <Dialog title={person ? person.name : say('Sign in')} onClose={onClose}>
      {needs === '' ? null : (
        <p className="quiet mb-3 flex items-center gap-2">
          <Lock size={14} aria-hidden /> {needs}
        </p>
      )}
      {person === null ? (
        <>
          <ul className="flex max-h-96 flex-col gap-2 overflow-auto" aria-label={say('Sign in')}>
            {people.map(({ id, name }) => (
              <li key={id}>
                <button type="button" className="btn btn-lg w-full justify-start" onClick={() => setPerson(id)}>
                  <span className="truncate">{name}</span>
                </button>
              </li>
            ))}
          </ul>
          {people.length === 0 ? <p>{say('Nobody can sign in here yet.')}</p> : null}
          <div className="mt-4 flex justify-end">
            <button type="button" className="btn btn-lg btn-ghost" onClick={onClose}>
              {say('Cancel')}
            </button>
          </div>
        </>
      ) : (
        <form
          noValidate
          className="flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void send();
          }}
        >
          <Field label="PIN" error={problem || undefined}>
            {(ids) => (
              <input
                {...ids}
                ref={input}
                autoFocus
                type="password"
                className="input input-lg num w-full text-xl"
                inputMode="none"
                autoComplete="off"
                value={pin}
                onChange={(e) => enter(e.target.value)}
              />
            )}
          </Field>
          <KeyRows
            rows={PIN_ROWS}
            onKey={(key) => enter(key === '⌫' ? pin.slice(0, -1) : key === 'C' ? '' : pin + key)}
            icons={{ '⌫': <Delete size={20} aria-hidden /> }}
          />
          <div className="mt-2 flex gap-2">
            {people.length > 1 ? (
              <button
                type="button"
                className="btn btn-lg btn-ghost"
                onClick={() => {
                  setPin('');
                  setProblem('');
                  setPerson(null);
                }}
              >
                {say('Somebody else')}
              </button>
            ) : null}
            <span className="flex-1" />
            <button type="button" className="btn btn-lg btn-ghost" onClick={onClose}>
              {say('Cancel')}
            </button>
            <button type="submit" className="btn btn-lg btn-primary" disabled={pin === '' || isBusy}>
              {say('Sign in')}
            </button>
          </div>
        </form>
      )}
    </Dialog>
  );
}

/** In the bar: who is signed in, and the way in or out. */
export function SignedInBar({ client, signing, say }: { readonly client: GlassClient; readonly signing: Signing } & Pick<Scene, 'say'>) {
  const { who, ask } = signing;
  const className = 'btn btn-sm h-9 shrink-0 text-[14px]';
  return who ? (
    <span className="flex shrink-0 items-center gap-2 text-[14px]" data-signed-in={who.name}>
      <span className="max-w-32 truncate" title={who.name}>
        {who.name}
      </span>
      <span className="quiet num">{say('level {1}', String(who.level))}</span>
      <button type="button" className={className} onClick={() => void client.signOut()}>
        {say('Sign out')}
      </button>
    </span>
  ) : (
    <button type="button" className={className} onClick={() => ask(0)}>
      {say('Sign in')}
    </button>
  );
}

/** In the place of a page that nobody here may open. */
export function PageBarred({ level, signing, say }: { readonly level: number; readonly signing: Signing } & Pick<Scene, 'say'>) {
  return (
    <div className="grid h-full place-content-center justify-items-center gap-4 p-6">
      <p className="flex items-center gap-2 text-[16px]">
        <Lock size={18} aria-hidden /> {say('This needs level {1}.', String(level))}
      </p>
      <button type="button" className="btn btn-lg btn-primary" onClick={() => signing.ask(level)}>
        {say('Sign in')}
      </button>
    </div>
  );
}
