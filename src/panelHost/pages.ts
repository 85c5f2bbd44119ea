/** The pages of a panel host: the panel, where phones join, and the host's own. Each is the same few lines and what it draws first. */
import type { OpenedPanel } from '@/ui/live/glassClient.ts';

/** Built once beside the server: scripts, styles and fonts, by their names. */
export interface Built {
  readonly script: string;
  readonly style: string;
}

export type HostPage =
  | { readonly screen: 'panel'; readonly panelId: string; readonly pageId: string | null; readonly opened: OpenedPanel | null }
  | { readonly screen: 'waiting' | 'join' | 'host' };

export const GLASS_PATH = '/glass/';

/** @param nonce of this answer: no other script runs */
export function pageText(page: HostPage, { script, style }: Built, nonce: string): string {
  // No text of a project ends the element that it stands in.
  const told = JSON.stringify(page).replace(/</g, '\\u003c');
  const theme = `try{var t=localStorage.getItem('mill-latch.theme');if(t)document.documentElement.dataset.theme=t}catch(e){}`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Mill Latch</title>
<link rel="icon" href="/icon.svg"><link rel="stylesheet" href="${GLASS_PATH}${style}"><script nonce="${nonce}">${theme}</script></head>
<body><div id="glass"></div><script type="application/json" id="told">${told}</script>
<script type="module" nonce="${nonce}" src="${GLASS_PATH}${script}"></script></body></html>`;
}
