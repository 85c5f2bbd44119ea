'use client';
/** Where an expression is typed: tags and functions are offered, mistakes are told where they stand, and what it comes to now. */
import { autocompletion, closeBrackets, completionKeymap, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching } from '@codemirror/language';
import { linter, type Diagnostic } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { drawSelection, EditorView, keymap, placeholder } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { FUNCTIONS } from '@/core/expression/functions.ts';
import { useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
import { matching } from '../live/tagSearch.ts';
import { expressionPath, readingOf } from './reading.ts';

const OFFERED = 40;

const LOOK = EditorView.theme({
  '&': { fontSize: '13px', border: '1px solid var(--color-base-300)', borderRadius: '4px', backgroundColor: 'var(--color-base-100)' },
  '&.cm-focused': { outline: '2px solid var(--color-primary)', outlineOffset: '-1px' },
  '.cm-content': { fontFamily: 'var(--font-mono)', minHeight: '56px', caretColor: 'var(--color-base-content)' },
  '.cm-cursor': { borderLeftColor: 'var(--color-base-content)' },
  '.cm-tooltip': { backgroundColor: 'var(--color-base-100)', border: '1px solid var(--color-base-300)', color: 'var(--color-base-content)' },
  '.cm-tooltip-autocomplete > ul > li': { fontFamily: 'var(--font-mono)', fontSize: '12px', padding: '2px 8px' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { backgroundColor: 'var(--color-primary)', color: 'var(--color-primary-content)' },
  '.cm-completionDetail': { fontStyle: 'normal', opacity: '0.75', marginLeft: '1em' },
  '.cm-diagnostic': { padding: '4px 8px' },
});

interface ExpressionEditorProps {
  readonly label: string;
  readonly text: string;
  /** Shown while it is empty. */
  readonly example?: string;
  readonly onText: (text: string) => void;
  /** Ctrl+Enter. */
  readonly onDone?: () => void;
  readonly focus?: boolean;
}

export function ExpressionEditor({ label, text, example = 'KILN.temp_in - KILN.temp_out', onText, onDone, focus = false }: ExpressionEditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const project = useProject();
  // The editor is made once; what it asks for is the newest.
  const now = useRef({ project, onText, onDone });
  useEffect(() => {
    now.current = { project, onText, onDone };
  });
  useEffect(() => {
    if (!host.current) return undefined;
    const view = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          history(),
          drawSelection(),
          bracketMatching(),
          closeBrackets(),
          EditorView.lineWrapping,
          placeholder(example),
          autocompletion({ override: [(context) => offered(context, now.current.project)], icons: false }),
          linter(({ state }) => diagnostics(state.doc.toString(), now.current.project), { delay: 200 }),
          keymap.of([{ key: 'Mod-Enter', run: () => (now.current.onDone?.(), true) }, ...completionKeymap, ...defaultKeymap, ...historyKeymap]),
          // A dialog that opens looks for what is to have its focus.
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false', ...(focus ? { autofocus: '' } : {}) }),
          EditorView.updateListener.of(({ docChanged, state }) => docChanged && now.current.onText(state.doc.toString())),
          LOOK,
        ],
      }),
    });
    if (focus) view.focus();
    return () => view.destroy();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- made once; what is typed in it is its own
  }, []);
  return <div ref={host} data-expression />;
}

function diagnostics(text: string, project: ProjectView): readonly Diagnostic[] {
  if (text.trim() === '') return [];
  const reading = readingOf(project, text);
  if (!reading.ok) return [diagnosticOf(reading.problem, 'error', text)];
  return reading.checked.doubts.map((doubt) => diagnosticOf(doubt, 'warning', text));
}

function diagnosticOf(
  { from, to, message, remedy }: { from: number; to: number; message: string; remedy?: string },
  severity: 'error' | 'warning',
  text: string,
): Diagnostic {
  // At the very end something is missing: the last character is marked.
  return {
    from: Math.min(from, Math.max(0, text.length - 1)),
    to: Math.max(to, Math.min(from + 1, text.length)),
    severity,
    message: [message, remedy].filter(Boolean).join(' '),
  };
}

function offered(context: CompletionContext, project: ProjectView): CompletionResult | null {
  const word = context.matchBefore(/[\p{L}_"][\p{L}\p{N}_ ".[\]]*/u);
  if (!word && !context.explicit) return null;
  const typed = (word?.text ?? '').trim();
  const tags = matching(project, typed.replaceAll('"', '').split('.').at(-1) ?? '', undefined, OFFERED).map((tag) => ({
    label: expressionPath(project, tag),
    detail: [tag.type, tag.unit].filter(Boolean).join(' · '),
  }));
  const begins = typed.toLowerCase();
  const functions = FUNCTIONS.filter(({ name }) => name.startsWith(begins)).map(({ name, form, help }) => ({
    label: form,
    detail: help,
    apply: `${name}(`,
  }));
  return { from: word?.from ?? context.pos, options: [...functions, ...tags], filter: false };
}
