/** What a phone or panel on the network gets beside its panels: no reasons that name hosts, and nobody's name. */
import type { LiveSample } from '@/core/live/messages.ts';
import type { Status } from '@/core/live/status.ts';

export function panelStatus(status: Status): Status {
  return {
    ...status,
    links: status.links.map((link) => ({ ...link, problem: null })),
    devices: status.devices.map((device) => ({ ...device, detail: '' })),
    unlocked: status.unlocked.map((unlocked) => ({ ...unlocked, who: '' })),
    driven: status.driven.map((driven) => ({ ...driven, who: '', place: '' })),
    isolated: status.isolated.map((isolation) => ({ ...isolation, who: '' })),
    panels: [],
  };
}

/** Why there is no value names hosts and ports; what kind of reason it is stays. */
export function panelSample(sample: LiveSample): LiveSample {
  return sample.broken?.stage === 'wire' ? { ...sample, quality: { ...sample.quality, detail: '' }, broken: null } : sample;
}
