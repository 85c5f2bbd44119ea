'use client';
/** What of a list is imported: a tree with counts, and the rule that clicks on it write, kept with the source. */
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useEffect, useState } from 'react';
import { EVERYTHING } from '@/core/taglist/choose.ts';
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import { withPattern, type TreeNode } from '@/core/taglist/tree.ts';
import { call } from '../live/api.ts';
import { Typed } from './Choice.tsx';

interface ChoosingProps {
  readonly draftId: string;
  readonly summary: DraftSummary;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  readonly onChange: (choices: DraftChoices) => void;
}

export function Choosing({ draftId, summary, choices, isBusy, onChange }: ChoosingProps) {
  const rule = choices.rule ?? EVERYTHING;
  const setRule = (changed: Partial<typeof rule>): void => onChange({ ...choices, rule: { ...rule, ...changed } });
  const toggle = (pattern: string, isWanted: boolean): void => onChange({ ...choices, rule: withPattern(rule, pattern, isWanted) });
  return (
    <section aria-label="Selection" className="card-flat grid max-h-[40%] shrink-0 grid-cols-[1.2fr_1fr] gap-4 overflow-hidden p-3 text-[13px]">
      <div className="flex min-h-0 flex-col overflow-auto" role="tree" aria-label="Groups, structures and arrays of the list">
        <Level draftId={draftId} node={0} depth={0} isBusy={isBusy} onToggle={toggle} />
      </div>
      <div className="flex min-h-0 flex-col gap-3 overflow-auto">
        {summary.structures.length > 0 ? (
          <div>
            <div className="flex flex-wrap items-center gap-2">
              <span className="quiet">All of type</span>
              {summary.structures.map(({ name, count }) => {
                const pattern = `:${name}`;
                const isOn = rule.include.includes(pattern);
                return (
                  <button
                    key={name}
                    type="button"
                    aria-pressed={isOn}
                    disabled={isBusy}
                    className={`btn btn-xs ${isOn ? 'btn-neutral' : ''}`}
                    onClick={() => setRule({ include: isOn ? rule.include.filter((p) => p !== pattern) : [...rule.include, pattern] })}
                  >
                    {name} <span className="num">{count}</span>
                  </button>
                );
              })}
            </div>
          </div>
        ) : null}
        <Typed
          label="Include"
          help="Names with * and ?, separated by spaces; Line2/* is everything in a group, :RollStand everything of a type. Empty imports all."
          value={rule.include.join(' ')}
          isBusy={isBusy}
          onSet={(text) => setRule({ include: patternsOf(text) })}
        />
        <Typed
          label="Exclude"
          help="Such as *_tmp Spare*. New tags of the next version come in by this rule by themselves."
          value={rule.exclude.join(' ')}
          isBusy={isBusy}
          onSet={(text) => setRule({ exclude: patternsOf(text) })}
        />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            disabled={isBusy}
            checked={rule.onlyForPanels}
            onChange={(e) => setRule({ onlyForPanels: e.target.checked })}
          />
          Only what the controller&apos;s program marks for panels
        </label>
      </div>
    </section>
  );
}

/** One level of the tree; those below it are asked for when it is opened. */
function Level({
  draftId,
  node,
  depth,
  isBusy,
  onToggle,
}: {
  readonly draftId: string;
  readonly node: number;
  readonly depth: number;
  readonly isBusy: boolean;
  readonly onToggle: (pattern: string, isWanted: boolean) => void;
}) {
  const [nodes, setNodes] = useState<readonly TreeNode[] | null>(null);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [shown, setShown] = useState(MOST_SHOWN);
  useEffect(() => {
    if (isBusy) return;
    let isWanted = true;
    void call<readonly TreeNode[]>('GET', `/lists/drafts/${draftId}/tree?node=${node}`).then((told) => {
      if (isWanted && told.ok) setNodes(told.value);
    });
    return () => {
      isWanted = false;
    };
  }, [draftId, node, isBusy]);
  if (!nodes) return depth === 0 ? <p className="quiet p-1">Looking at the list …</p> : null;
  return (
    <>
      {nodes.slice(0, shown).map((n) => {
        const isOpen = open.has(n.pattern);
        return (
          <div key={n.pattern}>
            <div
              role="treeitem"
              aria-expanded={n.hasChildren ? isOpen : undefined}
              aria-selected={n.chosen === n.count}
              aria-level={depth + 1}
              className="flex h-7 items-center gap-2"
              style={{ paddingLeft: depth * 20 }}
            >
              {n.hasChildren ? (
                <button
                  type="button"
                  className="btn btn-ghost btn-xs btn-square"
                  aria-label={`${isOpen ? 'Close' : 'Open'} ${n.label}`}
                  onClick={() =>
                    setOpen((now) => {
                      const next = new Set(now);
                      if (!next.delete(n.pattern)) next.add(n.pattern);
                      return next;
                    })
                  }
                >
                  {isOpen ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden />}
                </button>
              ) : (
                <span className="w-6" />
              )}
              <label className="flex min-w-0 items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  aria-label={`Import ${n.pattern}`}
                  disabled={isBusy}
                  checked={n.chosen === n.count}
                  ref={(box) => {
                    if (box) box.indeterminate = n.chosen > 0 && n.chosen < n.count;
                  }}
                  onChange={() => onToggle(n.pattern, n.chosen < n.count)}
                />
                <span className="truncate">{n.label}</span>
              </label>
              <span className="quiet">{KIND_WORDS[n.kind]}</span>
              {n.hasChildren ? (
                <span className={`num ml-auto pr-2 ${n.chosen < n.count ? 'is-look' : 'quiet'}`}>
                  {n.chosen} of {n.count}
                </span>
              ) : null}
            </div>
            {isOpen ? <Level draftId={draftId} node={n.index} depth={depth + 1} isBusy={isBusy} onToggle={onToggle} /> : null}
          </div>
        );
      })}
      {nodes.length > shown ? (
        <button type="button" className="btn btn-ghost btn-xs self-start" onClick={() => setShown(shown + MOST_SHOWN)}>
          {nodes.length - shown} more
        </button>
      ) : null}
    </>
  );
}

const MOST_SHOWN = 200;
const KIND_WORDS: Readonly<Record<TreeNode['kind'], string>> = { group: 'group', structure: 'structure', array: 'array', tag: '' };

function patternsOf(text: string): readonly string[] {
  return text.split(/\s+/).filter(Boolean);
}
