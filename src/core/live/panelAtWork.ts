/** What the server knows of a panel at work: the page that its screens show, and what its controller was answered. */
import type { CommandResult } from '../panel/exchange.ts';

export interface PanelAtWork {
  readonly panelId: string;
  /** The page of its leading screen; null while none is open. */
  readonly pageId: string | null;
  /** Screens that show it now. */
  readonly screens: number;
  /** The last command of its controller. */
  readonly command: {
    /** As the controller said it. */
    readonly said: number;
    readonly result: CommandResult;
    readonly at: number;
  } | null;
  /** Why the controller is not told what it should hold; empty while it is. */
  readonly untold: string;
}
