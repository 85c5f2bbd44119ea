/** The trace of a link as a file: for a network analyser, or to be read. */
import { fail, ok, type Result } from '@/core/result.ts';
import { pcapOf } from '@/core/trace/pcap.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';

export interface TraceFile {
  readonly bytes: Uint8Array;
  readonly fileName: string;
  readonly type: string;
}

export class TraceService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
  }

  capture(linkId: string, form: 'pcap' | 'text'): Result<TraceFile> {
    const link = this.#model.get('link', linkId);
    const driver = link && describeDriver(link.driver);
    if (!link || !driver) return fail('gone', 'The link is not there (any more).', 'Reload, and try again.');
    const frames = this.#engine.frames(linkId, Infinity);
    const name = link.name.replace(/[^\w-]+/g, '-').replace(/^-+|-+$/g, '') || 'link';
    if (form === 'pcap') {
      const capture = driver.capture?.(link.settings);
      if (!capture) return fail('no-capture', 'Frames of this protocol have no form that an analyser reads.', 'Export them as text.');
      return ok({ bytes: pcapOf(frames, capture.encapsulation), fileName: `${name}.pcap`, type: 'application/vnd.tcpdump.pcap' });
    }
    let before: number | null = null;
    const lines = frames.map((frame) => {
      const gap = before === null ? '' : `+${(frame.at - before).toFixed(1)}`;
      before = frame.at;
      const told = driver.dissect?.(link.settings, frame.direction, frame.bytes);
      const hex = Array.from(frame.bytes, (b) => b.toString(16).padStart(2, '0')).join(' ');
      const said = [told?.party, told?.summary].filter(Boolean).join(': ');
      const words = [said, frame.note].filter(Boolean).join('; ');
      return [new Date(frame.at).toISOString(), gap, frame.direction === 'sent' ? '->' : '<-', hex, words].join('\t');
    });
    const head = `# ${link.name}, ${driver.label}, ${driver.target(link.settings)}\n# time\tms since the frame before\tdirection\tbytes\tin words\n`;
    return ok({ bytes: new TextEncoder().encode(`${head}${lines.join('\n')}\n`), fileName: `${name}.txt`, type: 'text/plain; charset=utf-8' });
  }
}
