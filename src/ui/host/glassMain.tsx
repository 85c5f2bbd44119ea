/** What a panel host's pages run: the same glass as the bench's, and the host's own few screens. */
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import '../globals.css';
import type { OpenedPanel } from '../live/glassClient.ts';
import { JoinScreen } from '../network/JoinScreen.tsx';
import { PanelScreen } from '../panels/PanelScreen.tsx';
import { HostScreen } from './HostScreen.tsx';
import { WaitingScreen } from './WaitingScreen.tsx';

type Told =
  | { readonly screen: 'panel'; readonly panelId: string; readonly pageId: string | null; readonly opened: OpenedPanel | null }
  | { readonly screen: 'waiting' | 'join' | 'host' };

const told = JSON.parse(document.getElementById('told')?.textContent ?? '{"screen":"waiting"}') as Told;

/** Another panel may run by now: the host knows which. */
const anew = (): void => location.replace('/');

function Shown() {
  switch (told.screen) {
    case 'panel':
      return <PanelScreen panelId={told.panelId} pageId={told.pageId} embedded={false} opened={told.opened} whenGone={anew} />;
    case 'join':
      return <JoinScreen />;
    case 'host':
      return <HostScreen />;
    case 'waiting':
      return <WaitingScreen />;
  }
}

const at = document.getElementById('glass');
if (at)
  createRoot(at).render(
    <StrictMode>
      <Shown />
    </StrictMode>,
  );
