'use client';
/** Copy rules: what is copied where and when, who armed it, and what came of it. */
import { ArrowRight, CircleCheck, CircleDot, CirclePause, Plus, TriangleAlert } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import type { CopyStatus } from '@/core/live/copyStatus.ts';
import type { CopyRule } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { copyPairs, copyProblem } from '@/mapping/copies/copyPairs.ts';
import { loopProblem } from '@/mapping/copies/copyLoop.ts';
import { call } from '../live/api.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useStatus } from '../live/liveHooks.ts';
import type { ProjectView } from '../live/project.ts';
import { rememberedName, rememberName } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { CopyRuleForm } from './CopyRuleForm.tsx';
import { everyText } from './pauses.ts';
import { useCopies } from './useCopies.ts';

const COLUMNS = 'grid grid-cols-[minmax(0,1fr)_minmax(0,2.2fr)_minmax(0,1.3fr)_minmax(0,2fr)_9.5rem] items-center gap-3 px-3';
const STATES: Readonly<Record<CopyStatus['state'], readonly [words: string, look: string, Icon: typeof CircleDot]>> = {
  off: ['not in use', 'quiet', CirclePause],
  unarmed: ['not armed', 'quiet', CirclePause],
  ready: ['armed', 'is-good', CircleCheck],
  copying: ['armed', 'is-good', CircleDot],
  'held-back': ['held back', 'is-look', TriangleAlert],
};

export function CopiesBench() {
  const project = useProject();
  const rules = project.copyRules;
  const { statuses, refresh } = useCopies(rules.length > 0);
  /** The rule that is edited, or a new one. */
  const [open, setOpen] = useState<CopyRule | 'new' | null>(null);
  const [who, setWho] = useState(rememberedName);
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="text-lg font-semibold">Copy rules</h1>
        <span className="quiet" role="status">
          {counted(rules.length, 'rule')}
        </span>
        <span className="flex-1" />
        {rules.length > 0 ? (
          <label className="input input-sm w-56">
            <span className="quiet">Armed by</span>
            <input
              aria-label="Your name"
              placeholder="your name"
              maxLength={60}
              value={who}
              onChange={(e) => {
                setWho(e.target.value);
                rememberName(e.target.value.trim());
              }}
            />
          </label>
        ) : null}
        <Link className="btn btn-sm btn-outline" href="/map">
          Back to the map
        </Link>
        <button type="button" className="btn btn-sm btn-primary" onClick={() => setOpen('new')}>
          <Plus size={14} aria-hidden /> Copy rule
        </button>
      </div>
      {open === null ? null : <CopyRuleForm key={open === 'new' ? '' : open.id} rule={open === 'new' ? null : open} onClose={() => setOpen(null)} />}
      {rules.length === 0 ? (
        open === null ? (
          <Empty title="Nothing is copied">
            <p>
              A copy rule brings the value of one tag to another, on the same device or another one: at each change, when a tag turns on, or every so
              often. It copies only good values, only while somebody has armed it, and only into devices that are unlocked for automatic rules.
            </p>
            <button type="button" className="btn btn-primary" onClick={() => setOpen('new')}>
              Make a copy rule
            </button>
          </Empty>
        ) : null
      ) : (
        <div className="card-flat min-h-0 flex-1 overflow-auto" role="table" aria-label="Copy rules">
          <div role="row" className={`${COLUMNS} border-base-300 quiet sticky top-0 border-b py-1.5 text-[13px] font-semibold`}>
            {['Rule', 'Copies', 'When', 'State'].map((title) => (
              <span role="columnheader" key={title}>
                {title}
              </span>
            ))}
            <span />
          </div>
          {rules.map((rule) => (
            <RuleRow
              key={rule.id}
              rule={rule}
              status={statuses.get(rule.id) ?? null}
              who={who.trim()}
              onEdit={() => setOpen(rule)}
              onDone={refresh}
            />
          ))}
        </div>
      )}
    </div>
  );
}

function RuleRow({
  rule,
  status,
  who,
  onEdit,
  onDone,
}: {
  readonly rule: CopyRule;
  readonly status: CopyStatus | null;
  readonly who: string;
  readonly onEdit: () => void;
  readonly onDone: () => void;
}) {
  const project = useProject();
  const change = useChange();
  const problem = copyProblem(rule, project.copies) ?? loopProblem(rule, project.copies);
  const isArmed = status !== null && status.armedBy !== '';
  const locked = useLockedFor(rule, project);
  const hint =
    isArmed && status.state === 'ready' && locked !== '' ? `${locked} is locked: unlock it for automatic rules, else nothing is copied.` : null;
  const arm = async (): Promise<void> => {
    const done = await call('POST', `/copies/${rule.id}/${isArmed ? 'disarm' : 'arm'}`, { who });
    if (!done.ok) toast.error(`${done.problem.message} ${done.problem.remedy ?? ''}`);
    onDone();
  };
  const [words, look, Icon] = STATES[problem && !isArmed ? 'held-back' : (status?.state ?? 'unarmed')];
  return (
    <div role="row" data-rule={rule.name} className={`${COLUMNS} border-base-300 min-h-9 border-b py-1`}>
      <button type="button" className="link link-hover truncate text-left font-medium" title="Change the rule" onClick={onEdit}>
        {rule.name}
      </button>
      <Way rule={rule} project={project} />
      <span className="quiet">{whenText(rule, project)}</span>
      <span className="min-w-0">
        <span className={`${look} inline-flex items-center gap-1`}>
          <Icon size={14} aria-hidden /> {words}
          {isArmed ? <span className="quiet">by {status.armedBy}</span> : null}
          {status && status.count > 0 ? <span className="quiet num">· {status.count} ×</span> : null}
        </span>
        <span className="quiet block truncate text-xs" title={problem?.message ?? hint ?? status?.sentence}>
          {problem ? `${problem.message} ${problem.remedy ?? ''}` : (hint ?? status?.sentence)}
        </span>
      </span>
      <span className="flex gap-1">
        <button
          type="button"
          className={`btn btn-xs ${isArmed ? 'btn-outline' : 'btn-primary'}`}
          disabled={!isArmed && (who === '' || !rule.isOn || problem !== null)}
          title={who === '' ? 'Enter your name first' : undefined}
          onClick={() => void arm()}
        >
          {isArmed ? 'Disarm' : 'Arm'}
        </button>
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          onClick={() => void change(`copy rule ${rule.name} removed`, [{ kind: 'copyRule', id: rule.id, set: null }])}
        >
          Remove
        </button>
      </span>
    </div>
  );
}

/** The name of a device that a rule writes to and that is not open for rules; empty where there is none. */
function useLockedFor(rule: CopyRule, project: ProjectView): string {
  const unlocked = useStatus()?.unlocked ?? [];
  const deviceIds = new Set(
    copyPairs(rule, project.copies).flatMap(({ toId }) => deviceIdOf(project.tag(toId) ?? { source: { kind: 'local' } }) ?? []),
  );
  const closed = [...deviceIds].find((id) => !unlocked.some(({ deviceId, writers }) => deviceId === id && writers.includes('rule')));
  return closed === undefined ? '' : (project.device(closed)?.name ?? '');
}

function Way({ rule, project }: { readonly rule: CopyRule; readonly project: ProjectView }) {
  const nameOf = (tagId: string | null, blockId: string | null): string => {
    const tag = tagId === null ? null : project.tag(tagId);
    if (tag) return project.pathOf(tag);
    const block = blockId === null ? null : project.entity('block', blockId);
    return block ? `${project.device(block.deviceId)?.name ?? ''}.${block.name}` : '–';
  };
  const [from, to] = [nameOf(rule.fromTagId, rule.fromBlockId), nameOf(rule.toTagId, rule.toBlockId)];
  const count = copyPairs(rule, project.copies).length;
  return (
    <span className="flex min-w-0 items-center gap-1" title={`${from} to ${to}`}>
      <span className="truncate">{from}</span>
      <ArrowRight size={14} aria-label="to" className="quiet shrink-0" />
      <span className="truncate">{to}</span>
      {rule.fromBlockId === null ? null : <span className="quiet shrink-0 text-xs">({counted(count, 'member')})</span>}
    </span>
  );
}

function whenText({ when, triggerTagId, pauseMs }: CopyRule, project: ProjectView): string {
  const trigger = triggerTagId === null ? '' : (project.tag(triggerTagId)?.name ?? '');
  switch (when) {
    case 'change':
      return `at each change, at most every ${everyText(pauseMs)}`;
    case 'rising':
      return `when ${trigger} turns on`;
    case 'armed':
      return 'once, when it is armed';
    case 'every':
      return `every ${everyText(pauseMs)}`;
  }
}
