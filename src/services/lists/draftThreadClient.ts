/** The thread of one draft as the server sees it. */
import { WorkThread } from '../threads/workThread.ts';
import type { ThreadAsk } from './draftMessages.ts';

export type DraftThread = WorkThread<ThreadAsk>;

/** A list of the largest size needs a few gigabytes. Its rows live on: a small nursery would copy them again and again. */
const LIMITS = { maxOldGenerationSizeMb: 4000, maxYoungGenerationSizeMb: 192 };

/** @param file the built thread */
export function startDraftThread(file: string): DraftThread {
  return new WorkThread<ThreadAsk>(file, LIMITS);
}
