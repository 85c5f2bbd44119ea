/** A frame of the trace as JSON. */
import type { FrameEvent } from '@/drivers/contract.ts';

export interface FrameJson {
  readonly at: number;
  readonly direction: FrameEvent['direction'];
  /** Hexadecimal. */
  readonly bytes: string;
  readonly note: string | null;
  readonly oddity: FrameEvent['oddity'] | null;
}

export function frameJson({ at, direction, bytes, note, oddity }: FrameEvent): FrameJson {
  return { at, direction, bytes: Buffer.from(bytes).toString('hex'), note: note ?? null, oddity: oddity ?? null };
}
