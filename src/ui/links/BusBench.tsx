'use client';
/** The plan of a bus: the requests of every scan group over the addresses, their times, and what would help. */
import { counted } from '@/core/counted.ts';
import { ArrowLeft } from 'lucide-react';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { isMissed, type BusGroup, type BusPlan, type BusRequest } from '@/core/plan/busPlan.ts';
import type { Result } from '@/core/result.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';

const REFRESH_MS = 2000;

export function BusBench() {
  const project = useProject();
  const asked = useSearchParams().get('link') ?? '';
  const link = project.links.find((l) => l.id === asked) ?? project.links[0];
  if (!link)
    return (
      <Empty title="No links yet">
        <p>The plan shows what reading the tags of a link takes. Make one first.</p>
        <Link href="/links" className="btn btn-primary">
          To the links
        </Link>
      </Empty>
    );
  return <Plan key={link.id} linkId={link.id} name={link.name} />;
}

function Plan({ linkId, name }: { readonly linkId: string; readonly name: string }) {
  const [plan, setPlan] = useState<Result<BusPlan> | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    const load = (): void =>
      void call<BusPlan>('GET', `/links/${linkId}/bus`, undefined, stop.signal).then((loaded) => {
        if (!stop.signal.aborted) setPlan(loaded);
      });
    load();
    const timer = setInterval(load, REFRESH_MS);
    return () => {
      stop.abort();
      clearInterval(timer);
    };
  }, [linkId]);
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-center gap-2">
        <Link href="/links" className="btn btn-sm btn-ghost" aria-label="Back to the links">
          <ArrowLeft size={14} aria-hidden />
        </Link>
        <h1 className="text-base font-semibold">Bus load of {name}</h1>
        {plan?.ok && plan.value.line ? <span className="num quiet">{plan.value.line}</span> : null}
      </div>
      {plan === null ? (
        <p className="quiet" role="status">
          <span className="loading loading-spinner loading-sm" aria-hidden /> Planning …
        </p>
      ) : plan.ok ? (
        <PlanBody plan={plan.value} />
      ) : (
        <p role="alert">
          <strong className="is-bad">{plan.problem.message}</strong> {plan.problem.remedy}
        </p>
      )}
    </div>
  );
}

function PlanBody({ plan }: { readonly plan: BusPlan }) {
  const missed = plan.groups.filter(isMissed);
  return (
    <>
      <div className="grid grid-cols-[minmax(0,1fr)_24rem] gap-3">
        <section className="card-flat p-3" aria-label="Bus load">
          <h2 className="mb-1 font-semibold">Bus load</h2>
          <Gauge label="estimated" part={plan.use} />
          <Gauge label="measured" part={plan.measuredUse} />
          <p className="mt-2">
            {plan.groups.length === 0 ? (
              <span className="quiet">No tags are read over this link yet: import a list.</span>
            ) : missed.length === 0 ? (
              <span className="is-good">● Every group is read in its period.</span>
            ) : (
              <span className="is-bad">✕ {missed.length === 1 ? 'One group misses its period' : `${missed.length} groups miss their period`}.</span>
            )}
          </p>
        </section>
        <section className="card-flat p-3" aria-label="What would help">
          <h2 className="mb-1 font-semibold">What would help</h2>
          {plan.advice.length === 0 ? <p className="quiet">No change would help noticeably.</p> : null}
          <ul className="flex flex-col gap-1">
            {plan.advice.map((advice) => (
              <li key={advice.what} className="flex justify-between gap-3">
                <span>{advice.what}</span>
                <span className="num whitespace-nowrap" title="Bus load afterwards">
                  {percent(plan.use)} → {percent(advice.use)}
                </span>
              </li>
            ))}
          </ul>
        </section>
      </div>
      {plan.groups.map((group) => (
        <Group key={`${group.deviceId} ${group.periodMs}`} group={group} />
      ))}
    </>
  );
}

function Gauge({ label, part }: { readonly label: string; readonly part: number | null }) {
  const isOver = part !== null && part > 1;
  return (
    <div className="grid grid-cols-[5rem_minmax(0,1fr)_4rem] items-center gap-2">
      <span className="quiet">{label}</span>
      <span className="bg-base-200 h-3 overflow-hidden rounded" role="img" aria-label={`${label} ${part === null ? 'unknown' : percent(part)}`}>
        {part === null ? null : (
          <span
            className="block h-full"
            style={{ width: `${Math.min(1, part) * 100}%`, background: isOver ? 'var(--color-error)' : 'var(--color-primary)' }}
          />
        )}
      </span>
      <span className={`num text-right ${isOver ? 'is-bad' : ''}`}>{part === null ? '–' : percent(part)}</span>
    </div>
  );
}

function Group({ group }: { readonly group: BusGroup }) {
  const areas = [...new Set(group.requests.map((r) => r.area))];
  return (
    <section className="card-flat p-3" aria-label={`${group.device}, every ${group.periodMs / 1000} s`} data-missed={isMissed(group)}>
      <p className="flex gap-3">
        <strong>{group.device}</strong>
        <span>
          every <span className="num">{group.periodMs / 1000}</span> s
        </span>
        <span className="quiet">
          {counted(group.requests.length, 'request')}, <span className="num">{group.totalMs.toFixed(1)} ms</span> in total
          {group.isMeasured ? '' : ', reckoned with a usual turnaround'}
        </span>
        <span className="flex-1" />
        {isMissed(group) ? (
          <span className="is-bad">
            ✕ reached every <span className="num">{((group.reachedMs ?? 0) / 1000).toFixed(2)} s</span>
          </span>
        ) : (
          <span className="is-good">● in time</span>
        )}
      </p>
      {areas.map((area) => (
        <Range key={area} area={area} requests={group.requests.filter((r) => r.area === area)} />
      ))}
    </section>
  );
}

/** The requests of one area over its addresses: what is asked for as an outline, what holds a value filled. */
function Range({ area, requests }: { readonly area: string; readonly requests: readonly BusRequest[] }) {
  const from = Math.min(...requests.map((r) => r.start));
  const to = Math.max(...requests.map((r) => r.start + r.count));
  const at = (address: number): string => `${((address - from) / (to - from)) * 100}%`;
  const width = (count: number): string => `${(count / (to - from)) * 100}%`;
  return (
    <div className="mt-2 grid grid-cols-[6rem_minmax(0,1fr)_13rem] items-start gap-2">
      <span className="num quiet text-xs">
        {area}
        {to - from > 1 ? `${from}–${to - 1}` : from}
      </span>
      <span
        className="bg-base-200 relative block h-5 rounded"
        role="img"
        aria-label={`${requests.length} requests over ${area}${from} to ${area}${to - 1}`}
      >
        {requests.flatMap((r) =>
          r.used.map((u) => (
            <span
              key={`${r.start} ${u.start} ${u.count}`}
              className="absolute top-1.5 h-2"
              style={{
                left: at(u.start),
                width: width(u.count),
                minWidth: 2,
                background: 'var(--color-primary)',
                boxShadow: 'inset -1px 0 var(--color-base-100)',
              }}
            />
          )),
        )}
        {requests.map((r) => (
          <span
            key={r.start}
            className="absolute top-0 h-5 rounded"
            style={{ left: at(r.start), width: width(r.count), minWidth: 4, border: '1.5px solid var(--color-base-content)' }}
            title={`${area}${r.start}–${r.start + r.count - 1}: ${counted(r.tags, 'tag')}`}
          />
        ))}
      </span>
      <span className="text-xs">
        {requests.slice(0, 4).map((r) => (
          <span key={r.start} className="num flex justify-between gap-2">
            <span className="quiet">
              {area}
              {r.start}+{r.count}
            </span>
            <span title="Estimated, and measured, from sending to the end of the reply">
              {r.foreseenRoundTripMs.toFixed(1)} · {r.measuredMs === null ? '–' : r.measuredMs.toFixed(1)} ms
            </span>
          </span>
        ))}
        {requests.length > 4 ? <span className="quiet">and {requests.length - 4} more</span> : null}
      </span>
    </div>
  );
}

function percent(part: number): string {
  return `${(part * 100).toFixed(part < 0.1 ? 1 : 0)} %`;
}
