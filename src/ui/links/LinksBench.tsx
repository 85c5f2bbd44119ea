'use client';
/** Links and their devices with their live state. */
import { counted } from '@/core/counted.ts';
import Markdown from 'markdown-to-jsx';
import { Activity, AudioWaveform, GraduationCap, HelpCircle, Pencil, Plus, Search, Trash2 } from 'lucide-react';
import NextLink from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { slowInWords } from '@/core/live/freshness.ts';
import type { Device, Link } from '@/core/project/entities.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useChannelState, useLive, useStatus } from '../live/liveHooks.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Empty } from '../parts/Field.tsx';
import { timeOfDay } from '../parts/moment.ts';
import { ConnectionTest } from './ConnectionTest.tsx';
import { DeviceDialog } from './DeviceDialog.tsx';
import { FindNumbers } from './FindNumbers.tsx';
import { FindValue } from './FindValue.tsx';
import { LearnLayout } from './LearnLayout.tsx';
import { LinkDialog } from './LinkDialog.tsx';
import { SimulationDialog } from './simulation/SimulationDialog.tsx';

type Open =
  | { readonly kind: 'link'; readonly link: Link | null }
  | { readonly kind: 'device'; readonly link: Link; readonly device: Device | null; readonly setting?: string | undefined }
  | { readonly kind: 'test'; readonly device: Device }
  | { readonly kind: 'findNumbers'; readonly link: Link }
  | { readonly kind: 'findValue'; readonly device: Device }
  | { readonly kind: 'help'; readonly driver: string }
  | { readonly kind: 'learn'; readonly deviceId: string }
  | { readonly kind: 'simulation'; readonly deviceId: string }
  | { readonly kind: 'remove'; readonly what: 'link' | 'device'; readonly id: string; readonly name: string; readonly tags: number };

export function LinksBench() {
  const project = useProject();
  const router = useRouter();
  const asked = useSearchParams();
  const toTest = project.device(asked.get('test') ?? '');
  const toEdit = project.device(asked.get('device') ?? '');
  const linkOfEdited = project.link(toEdit?.linkId ?? '');
  const [opened, setOpen] = useState<Open | null>(null);
  // An address such as /links?test=… opens the test of a device, and /links?device=…&setting=… its form at a protocol option.
  const byAddress: Open | null = toTest
    ? { kind: 'test', device: toTest }
    : toEdit && linkOfEdited
      ? { kind: 'device', link: linkOfEdited, device: toEdit, setting: asked.get('setting') ?? undefined }
      : null;
  const open = opened ?? byAddress;
  const simulatedOne = open?.kind === 'simulation' ? project.device(open.deviceId) : null;
  const close = (): void => {
    setOpen(null);
    if (byAddress) router.replace('/links');
  };
  return (
    <>
      <div className="mb-2 flex items-center gap-2">
        <h1 className="sr-only">Links</h1>
        <p className="quiet flex-1">How bytes travel, and who is at the other end.</p>
        {project.links.length > 1 ? <Simulation devices={project.devices} of="The whole project" /> : null}
        <button type="button" className="btn btn-sm btn-primary" onClick={() => setOpen({ kind: 'link', link: null })}>
          <Plus size={14} aria-hidden /> Link
        </button>
      </div>
      {project.links.length === 0 ? (
        <Empty title="No link yet">
          <p>A link says how bytes travel: host and port of a controller or gateway. Make one, give it a device, and test the connection.</p>
          <button type="button" className="btn btn-primary" onClick={() => setOpen({ kind: 'link', link: null })}>
            <Plus size={16} aria-hidden /> Create the first link
          </button>
        </Empty>
      ) : (
        <div className="flex flex-col gap-3">
          {project.links.map((link) => (
            <LinkCard key={link.id} link={link} onOpen={setOpen} />
          ))}
        </div>
      )}
      {open?.kind === 'link' ? <LinkDialog link={open.link} onClose={close} /> : null}
      {open?.kind === 'device' ? <DeviceDialog device={open.device} link={open.link} setting={open.setting} onClose={close} /> : null}
      {open?.kind === 'test' ? <ConnectionTest device={open.device} onClose={close} /> : null}
      {open?.kind === 'findNumbers' ? <FindNumbers link={open.link} onClose={close} /> : null}
      {open?.kind === 'findValue' ? <FindValue device={open.device} onClose={close} /> : null}
      {open?.kind === 'simulation' && simulatedOne ? <SimulationDialog device={simulatedOne} onClose={close} /> : null}
      {open?.kind === 'learn' ? <Learning deviceId={open.deviceId} onClose={close} /> : null}
      {open?.kind === 'help' ? (
        <Dialog title={describeDriver(open.driver)?.label ?? ''} onClose={close}>
          <div className="prose-sm flex flex-col gap-2 [&_li]:ml-5 [&_li]:list-disc">
            <Markdown options={{ disableParsingRawHTML: true }}>{describeDriver(open.driver)?.help ?? ''}</Markdown>
          </div>
          <div className="mt-4 text-right">
            <button type="button" className="btn btn-sm btn-primary" onClick={close}>
              Close
            </button>
          </div>
        </Dialog>
      ) : null}
      {open?.kind === 'remove' ? <RemoveDialog open={open} onClose={close} /> : null}
    </>
  );
}

function LinkCard({ link, onOpen }: { readonly link: Link; readonly onOpen: (open: Open) => void }) {
  const project = useProject();
  const status = useStatus()?.links.find((l) => l.linkId === link.id);
  const channel = useChannelState();
  const driver = describeDriver(link.driver);
  const devices = project.devices.filter((d) => d.linkId === link.id);
  const simulated = devices.filter(({ isSimulated }) => isSimulated).length;
  const isResting = simulated > 0 && simulated === devices.length;
  const state = isResting
    ? { tone: 'quiet', words: '○ rests' }
    : channel === 'silent'
      ? { tone: 'is-bad', words: '✕ unknown: the server does not answer' }
      : linkWords(status);
  const tagsOf = (deviceId: string): number => project.tagCountOn(deviceId);
  return (
    <section className="card-flat p-3" aria-label={`Link ${link.name}`}>
      <div className="flex items-center gap-3">
        <h2 className="max-w-80 shrink-0 truncate text-base font-semibold">{link.name}</h2>
        <span className="quiet whitespace-nowrap">{driver?.label}</span>
        <span className="num max-w-64 truncate" title={driver?.target(link.settings)}>
          {driver?.target(link.settings)}
        </span>
        <span className={`truncate ${state.tone}`} data-link-state={status?.phase}>
          {state.words}
        </span>
        <span className="flex-1" />
        {simulated > 0 ? (
          <span className="is-look whitespace-nowrap" data-simulated>
            ◆ {simulated === devices.length ? 'simulated' : `${simulated} of ${devices.length} simulated`}
          </span>
        ) : null}
        <NextLink href={`/links/trace?link=${link.id}`} className="btn btn-xs btn-ghost">
          Trace
        </NextLink>
        {driver?.foresee ? (
          <NextLink href={`/links/bus?link=${link.id}`} className="btn btn-xs btn-ghost">
            Bus load
          </NextLink>
        ) : null}
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          aria-label={`Help on ${driver?.label ?? 'the protocol'}`}
          onClick={() => onOpen({ kind: 'help', driver: link.driver })}
        >
          <HelpCircle size={14} aria-hidden />
        </button>
        <button type="button" className="btn btn-xs btn-ghost" aria-label={`Change link ${link.name}`} onClick={() => onOpen({ kind: 'link', link })}>
          <Pencil size={14} aria-hidden />
        </button>
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          aria-label={`Remove link ${link.name}`}
          onClick={() => onOpen({ kind: 'remove', what: 'link', id: link.id, name: link.name, tags: devices.reduce((n, d) => n + tagsOf(d.id), 0) })}
        >
          <Trash2 size={14} aria-hidden />
        </button>
      </div>
      <table className="mt-2 w-full table-fixed text-[13px]">
        <thead>
          <tr className="quiet text-left">
            <th className="w-48 font-semibold">Device</th>
            <th className="w-24 font-semibold">Address</th>
            <th className="w-20 font-semibold">Tags</th>
            <th className="font-semibold">State</th>
            <th className="w-80" />
          </tr>
        </thead>
        <tbody>
          {devices.map((device) => (
            <tr key={device.id} className="border-base-300 h-9 border-t" data-device={device.name}>
              <td className="truncate font-medium">{device.name}</td>
              <td className="truncate">{driver?.party(device.settings)}</td>
              <td className="num">{tagsOf(device.id)}</td>
              <td>
                {device.isSimulated ? (
                  <span className="is-look">◆ simulated</span>
                ) : (
                  <DeviceState deviceId={device.id} hasTags={tagsOf(device.id) > 0} />
                )}
              </td>
              <td className="text-right">
                <button type="button" className="btn btn-xs btn-outline" onClick={() => onOpen({ kind: 'test', device })}>
                  <Activity size={13} aria-hidden /> Test connection
                </button>{' '}
                {driver?.bytes ? (
                  <button
                    type="button"
                    className="btn btn-xs btn-ghost"
                    aria-label={`Find how ${device.name} is read`}
                    title="Identify the format from a known value"
                    onClick={() => onOpen({ kind: 'findValue', device })}
                  >
                    <Search size={14} aria-hidden />
                  </button>
                ) : null}
                {driver?.bytes?.signature ? (
                  <button
                    type="button"
                    className="btn btn-xs btn-ghost"
                    aria-label={`Learn how ${device.name} lays out memory`}
                    title="Learn orders, bits, texts and structures from a block of known values"
                    onClick={() => onOpen({ kind: 'learn', deviceId: device.id })}
                  >
                    <GraduationCap size={14} aria-hidden />
                  </button>
                ) : null}
                <button
                  type="button"
                  className="btn btn-xs btn-ghost"
                  aria-label={`Simulate ${device.name}`}
                  title="Without the machine: simulated values, and what they do"
                  onClick={() => onOpen({ kind: 'simulation', deviceId: device.id })}
                >
                  <AudioWaveform size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  className="btn btn-xs btn-ghost"
                  aria-label={`Change device ${device.name}`}
                  onClick={() => onOpen({ kind: 'device', link, device })}
                >
                  <Pencil size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  className="btn btn-xs btn-ghost"
                  aria-label={`Remove device ${device.name}`}
                  onClick={() => onOpen({ kind: 'remove', what: 'device', id: device.id, name: device.name, tags: tagsOf(device.id) })}
                >
                  <Trash2 size={14} aria-hidden />
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="border-base-300 flex items-center gap-3 border-t pt-2">
        <button type="button" className="btn btn-xs btn-outline" onClick={() => onOpen({ kind: 'device', link, device: null })}>
          <Plus size={13} aria-hidden /> Device
        </button>
        {driver?.scansNumbers ? (
          <button type="button" className="btn btn-xs btn-ghost" onClick={() => onOpen({ kind: 'findNumbers', link })}>
            <Search size={13} aria-hidden /> Discover devices
          </button>
        ) : null}
        <Simulation devices={devices} of={link.name} />
        {simulated > 0 ? (
          <span className="is-look">
            {simulated === devices.length
              ? 'Values are simulated: nothing goes to the machine.'
              : 'Some values are simulated, and not those of the machine.'}
          </span>
        ) : null}
        {devices.length === 0 ? <span className="quiet">A link carries bytes to a device: give it one.</span> : null}
      </div>
    </section>
  );
}

/** Desk work: all devices of a link, or of the project, are simulated while the machine is not there, or are the machine's again. */
function Simulation({ devices, of }: { readonly devices: readonly Device[]; readonly of: string }) {
  const change = useChange();
  const simulated = devices.filter(({ isSimulated }) => isSimulated).length;
  const turn = (on: boolean): Promise<unknown> =>
    change(
      on ? `${of}: all devices simulated` : `${of}: all devices the machine's again`,
      devices.filter(({ isSimulated }) => isSimulated !== on).map(({ id }) => ({ kind: 'device', id, set: { isSimulated: on } })),
    );
  if (devices.length === 0) return null;
  return (
    <>
      {simulated < devices.length ? (
        <button type="button" className="btn btn-xs btn-ghost" onClick={() => void turn(true)}>
          Simulate {devices.length === 1 ? 'it' : 'all'}
        </button>
      ) : null}
      {simulated > 0 ? (
        <button type="button" className="btn btn-xs btn-outline" onClick={() => void turn(false)}>
          Back to the machine
        </button>
      ) : null}
    </>
  );
}

/** The device as it is now: what is learnt changes it. */
function Learning({ deviceId, onClose }: { readonly deviceId: string; readonly onClose: () => void }) {
  const project = useProject();
  const device = project.device(deviceId);
  const driver = describeDriver(project.link(device?.linkId ?? '')?.driver ?? '');
  const signature = driver?.bytes?.signature;
  return device && driver && signature ? <LearnLayout device={device} driver={driver} signature={signature} onClose={onClose} /> : null;
}

function linkWords(
  status:
    | { readonly phase: string; readonly problem: { readonly message: string; readonly remedy?: string } | null; readonly requestsPerSecond: number }
    | undefined,
): { readonly tone: string; readonly words: string } {
  if (!status) return { tone: 'quiet', words: '○ not online yet' };
  if (status.phase === 'connected')
    return { tone: 'is-good', words: `● connected${status.requestsPerSecond > 0 ? ` · ${status.requestsPerSecond.toFixed(1)} requests/s` : ''}` };
  if (status.problem) return { tone: 'is-bad', words: `✕ ${status.problem.message} ${status.problem.remedy ?? ''} Tried again by itself.` };
  return { tone: 'quiet', words: '○ connecting …' };
}

function DeviceState({ deviceId, hasTags }: { readonly deviceId: string; readonly hasTags: boolean }) {
  const status = useStatus()?.devices.find((d) => d.deviceId === deviceId);
  const channel = useChannelState();
  const live = useLive();
  if (channel === 'silent') return <span className="is-bad">✕ unknown: the server does not answer</span>;
  if (!status) return <span className="quiet">○ not online yet</span>;
  if (status.state === 'answering' && status.slow)
    return (
      <span className="is-look" title="Values keep their time; those that are too old are marked. Bus load shows what would help.">
        ◑ answering, the bus is overloaded: {slowInWords(status.slow)}
      </span>
    );
  if (status.state === 'answering')
    return (
      <span className="is-good">
        ● answering{hasTags ? '' : ' · no tags yet: import a list'}
        {status.lastAnswerAt !== null && live.now() - status.lastAnswerAt > 5000 ? ` · last at ${timeOfDay(status.lastAnswerAt)}` : ''}
      </span>
    );
  if (status.state === 'stopped')
    return (
      <span className="is-look" title={status.detail}>
        ◑ answers, but {status.detail}
      </span>
    );
  if (status.state === 'connecting') return <span className="quiet">○ {hasTags ? 'connecting' : 'no answer yet'}</span>;
  return (
    <span className="is-bad" title={status.detail}>
      ✕ silent: {status.detail}
    </span>
  );
}

function RemoveDialog({ open, onClose }: { readonly open: Extract<Open, { kind: 'remove' }>; readonly onClose: () => void }) {
  const change = useChange();
  return (
    <Dialog title={`Remove ${open.what} ${open.name}?`} onClose={onClose}>
      <p>
        {open.tags > 0
          ? `Its ${counted(open.tags, 'tag')} will go too, and panel elements that show them lose their tag. Undo brings everything back.`
          : 'Undo brings it back.'}
      </p>
      <div className="mt-5 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Keep it
        </button>
        <button
          type="button"
          className="btn btn-sm btn-error"
          onClick={() => {
            void change(`${open.what} ${open.name} removed`, [{ kind: open.what, id: open.id, set: null }]);
            onClose();
          }}
        >
          Remove
        </button>
      </div>
    </Dialog>
  );
}
