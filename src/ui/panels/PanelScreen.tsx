'use client';
/** A panel at its own address, full screen and live. It tells checks what it has really drawn. */
import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore, type ReactNode } from 'react';
import { Toaster, toast } from 'sonner';
import { BAR_PX } from '@/core/panel/sizes.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { sceneInLanguage } from '@/core/panel/sceneWording.ts';
import { SUBJECT_PLACE, withSubject } from '@/core/panel/subjects.ts';
import { openPage } from '@/core/panel/levels.ts';
import type { Page } from '@/core/project/entities.ts';
import { Live, useChannelState, useLive, useStatus } from '../live/liveHooks.ts';
import type { Drawn } from '../live/liveClient.ts';
import { GlassClient, type OpenedPanel } from '../live/glassClient.ts';
import { ChangedBack } from '../parts/ChangedBack.tsx';
import { DrivenBar } from '../parts/DrivenBar.tsx';
import { NotReleasedAlarm } from '../parts/NotReleasedAlarm.tsx';
import { TroublesBar } from '../parts/TroublesBar.tsx';
import { haveReady } from './drawings/drawings.ts';
import { PageView } from './PageView.tsx';
import { SubjectsProvider, useSubject } from './Subjects.tsx';
import { useLanguage } from './useLanguage.ts';
import { PageBarred, SignedInBar, SignInDialog, useSigning, type Signing } from './Signing.tsx';
import { useScreen } from './useScreen.ts';
import { StageProvider, useVisited, type Stage } from './SceneContext.tsx';

interface PanelScreenProps {
  readonly panelId: string;
  readonly pageId: string | null;
  /** Looked at inside another page: nothing can be pressed. */
  readonly embedded: boolean;
  /** What is done when there is no such panel any more; absent where that is said. */
  readonly whenGone?: () => void;
  /** The panel as it was when the page was asked for; null where it could not be told. */
  readonly opened: OpenedPanel | null;
}

const PHONE_PX = 640;
/** After the first page is drawn. */
const READY_MS = 2000;

export function PanelScreen({ panelId, pageId, embedded, opened, whenGone }: PanelScreenProps) {
  const [client, setClient] = useState<GlassClient | null>(null);
  const first = useRef(opened);
  useEffect(() => {
    const made = new GlassClient(panelId, first.current);
    if (whenGone) made.onChange(() => made.isGone && whenGone());
    made.start();
    setClient(made);
    return () => made.stop();
  }, [panelId, whenGone]);
  if (!client) return <Waiting>Opening the panel …</Waiting>;
  return (
    <Live.Provider value={client}>
      <NotReleasedAlarm canAct={false} />
      <DrivenBar canAct={false} />
      <TroublesBar />
      <SubjectsProvider>
        <Glass client={client} pageId={pageId} embedded={embedded} />
      </SubjectsProvider>
      {embedded ? null : <ChangedBack />}
      <Toaster position="top-center" />
    </Live.Provider>
  );
}

function Waiting({ children }: { readonly children: ReactNode }) {
  return <p className="quiet grid h-dvh place-items-center p-6 text-center">{children}</p>;
}

function Glass({ client, pageId, embedded }: { readonly client: GlassClient; readonly pageId: string | null; readonly embedded: boolean }) {
  const state = useSyncExternalStore(
    useCallback((listener) => client.onChange(listener), [client]),
    () => client.scene ?? client.loadProblem,
  );
  if (state === null) return <Waiting>Opening the panel …</Waiting>;
  if (typeof state === 'string') return <Waiting>{state} Arrange panels in the step Panels.</Waiting>;
  if (state.pages.length === 0) return <Waiting>This panel has no page yet. Arrange it in the step Panels.</Waiting>;
  return <Pages client={client} scene={state} first={pageId} embedded={embedded} />;
}

interface PagesProps {
  readonly client: GlassClient;
  readonly scene: Scene;
  readonly first: string | null;
  readonly embedded: boolean;
}

function Pages({ client, scene: written, first, embedded }: PagesProps) {
  const { language, speak } = useLanguage(written);
  const code = language?.code ?? null;
  const scene = useMemo(() => sceneInLanguage(written, code), [written, code]);
  const { panel, pages } = scene;
  const live = useLive();
  const channel = useChannelState();
  const isPhone = useIsPhone();
  const { pageId, visit, back } = useVisited(pages.some(({ id }) => id === first) ? first : null);
  const { signing, asked, close } = useSigning(client, !embedded);
  const level = signing.who?.level ?? 0;
  // A page that was removed meanwhile gives way to the start page, as one does that nobody who is here may open.
  const page = openPage(scene, pageId, level);
  const why = useScreen(client, page?.id ?? null, !embedded, visit);
  const goTo = useMemo<Stage['goTo']>(() => {
    const at = pages.findIndex(({ id }) => id === page?.id);
    return (to) => {
      if (why !== '') return void toast(why, { id: 'page' });
      if (to === 'back') return back();
      const next = typeof to === 'object' ? to.pageId : pages[(at + (to === 'next' ? 1 : pages.length - 1)) % pages.length]?.id;
      const wanted = pages.find(({ id }) => id === next);
      if (!wanted) return;
      if (wanted.level > level) signing.ask(wanted.level, () => visit(wanted.id));
      else visit(wanted.id);
    };
  }, [pages, page, visit, back, why, level, signing]);
  useEffect(() => {
    if (!page) return;
    const url = new URL(location.href);
    if (url.searchParams.get('page') === page.id) return;
    url.searchParams.set('page', page.id);
    // The address says where one is; there is nothing to load.
    history.replaceState(null, '', url);
  }, [page]);
  useEffect(() => {
    if (!page) return;
    const spoken = code === written.panel.languages[0]?.code ? null : code;
    return live.answerDrawn((tagId) => readDrawn(tagId, spoken));
  }, [live, page, code, written]);
  useEffect(() => {
    const timer = setTimeout(() => haveReady(new Set(pages.flatMap(({ id }) => scene.elementsOn(id).map(({ kind }) => kind)))), READY_MS);
    return () => clearTimeout(timer);
  }, [scene, pages]);
  const number = language?.number ?? null;
  useEffect(() => client.speaks(number), [client, number]);
  // What is shown is where one is, also where it was somebody else's page before.
  useEffect(() => {
    if (page && pageId !== null && page.id !== pageId) visit(page.id);
  }, [page, pageId, visit]);
  useTheme(panel.theme);
  const dialog = asked ? <SignInDialog client={client} scene={scene} who={signing.who} asked={asked} onClose={close} /> : null;
  if (!page)
    return (
      <div className="bg-base-200 h-dvh" lang={code ?? undefined}>
        <PageBarred level={Math.min(...pages.map((one) => one.level))} signing={signing} say={scene.say} />
        {dialog}
      </div>
    );
  return (
    <StageProvider
      scene={scene}
      values="live"
      isPressable={!embedded}
      isArranged={false}
      isPhone={isPhone}
      goTo={goTo}
      speak={speak}
      signing={signing}
    >
      <Fitted width={panel.width} height={panel.height} isPhone={isPhone}>
        <div
          className="bg-base-200 relative flex h-full flex-col"
          lang={code ?? undefined}
          data-panel={panel.name}
          data-page={page.name}
          data-channel={channel}
        >
          {panel.hasBar || isPhone || channel === 'silent' ? (
            <Bar scene={scene} page={page} goTo={goTo} isInert={embedded} why={why} isPhone={isPhone} client={client} signing={signing} />
          ) : null}
          {panel.hasBar || isPhone || channel === 'silent' ? null : (
            <div className="pointer-events-none absolute right-2 bottom-1 z-10">
              <SimulatedMark scene={scene} />
            </div>
          )}
          <main inert={embedded} className={isPhone ? '' : 'relative min-h-0 flex-1 overflow-hidden'}>
            <PageView key={page.id} pageId={page.id} />
          </main>
        </div>
      </Fitted>
      {dialog}
    </StageProvider>
  );
}

function Bar({
  scene,
  page,
  goTo,
  isInert,
  why,
  isPhone,
  client,
  signing,
}: {
  readonly scene: Scene;
  readonly page: Page;
  readonly goTo: Stage['goTo'];
  readonly isInert: boolean;
  readonly why: string;
  readonly isPhone: boolean;
  readonly client: GlassClient;
  readonly signing: Signing;
}) {
  const channel = useChannelState();
  const { say } = scene;
  const subject = useSubject(page.id);
  return (
    <header
      className={`flex shrink-0 items-center gap-3 overflow-hidden px-3 ${isPhone ? 'flex-wrap gap-y-0 py-1' : ''}`}
      style={{ minHeight: BAR_PX, ...(isPhone ? {} : { height: BAR_PX }) }}
    >
      <h1 className="min-w-24 truncate text-[16px] font-semibold">{withSubject(page.name, subject.choice)}</h1>
      {scene.pages.length > 1 ? (
        <nav className="flex min-w-0 gap-1 overflow-x-auto" aria-label={say('Pages')} inert={isInert}>
          {scene.pages.map((one) => (
            <button
              key={one.id}
              type="button"
              aria-current={one.id === page.id ? 'page' : undefined}
              aria-disabled={why !== '' && one.id !== page.id}
              className={`h-9 rounded-md px-3 text-[14px] whitespace-nowrap aria-disabled:opacity-60 ${one.id === page.id ? 'bg-primary text-primary-content' : 'hover:bg-base-300'}`}
              onClick={() => goTo({ pageId: one.id })}
            >
              {one.name.replaceAll(SUBJECT_PLACE, '').trim() || one.name}
            </button>
          ))}
        </nav>
      ) : null}
      <span className="flex-1" />
      {why === '' ? null : <span className="quiet shrink-0 text-[12px]">{why}</span>}
      <SimulatedMark scene={scene} />
      {scene.people.length > 0 && !isInert ? <SignedInBar client={client} signing={signing} say={say} /> : null}
      {channel === 'silent' ? (
        <strong className="is-bad shrink-0 text-[14px]" role="alert">
          ✕ {say('The server does not answer: values are not live')}
        </strong>
      ) : (
        <WriteState say={say} />
      )}
    </header>
  );
}

/** A simulated value is never taken for one of the machine. */
function SimulatedMark({ scene: { simulated, say } }: { readonly scene: Scene }) {
  const names = simulated.names.join(', ');
  return names === '' ? null : (
    <strong className="is-look bg-base-100 shrink-0 rounded px-2 py-0.5 text-[13px]" title={names} data-simulated={names}>
      ◑ {simulated.isAll ? say('All values are simulated') : say('Simulated: {1}', names.length > 40 ? `${names.slice(0, 40)}…` : names)}
    </strong>
  );
}

function WriteState({ say }: Pick<Scene, 'say'>) {
  const unlocked = useStatus()?.unlocked ?? [];
  return unlocked.length === 0 ? (
    <span className="quiet shrink-0 text-[12px]">{say('writing locked')}</span>
  ) : (
    <span className="is-look shrink-0 text-[12px]">◑ {say('writing open')}</span>
  );
}

/** The panel as large as the window allows, its pixels all of one size. */
function Fitted({
  width,
  height,
  isPhone,
  children,
}: {
  readonly width: number;
  readonly height: number;
  readonly isPhone: boolean;
  readonly children: ReactNode;
}) {
  // It fills the window: to measure itself it would have to be laid out twice.
  const [scale, setScale] = useState(() => scaleFor(width, height));
  useEffect(() => {
    const measure = (): void => setScale(scaleFor(width, height));
    measure();
    window.addEventListener('resize', measure);
    return () => window.removeEventListener('resize', measure);
  }, [width, height]);
  if (isPhone) return <div className="bg-base-200 min-h-dvh">{children}</div>;
  return (
    <div className="bg-base-200 grid h-dvh w-full place-items-center overflow-hidden">
      <div style={{ width: width * scale, height: height * scale }}>
        <div style={{ width, height, transform: scale === 1 ? undefined : `scale(${scale})`, transformOrigin: '0 0' }}>{children}</div>
      </div>
    </div>
  );
}

const scaleFor = (width: number, height: number): number => Math.min(window.innerWidth / width, window.innerHeight / height);

function useIsPhone(): boolean {
  return useSyncExternalStore(
    (listener) => {
      const query = window.matchMedia(`(max-width: ${PHONE_PX - 1}px)`);
      query.addEventListener('change', listener);
      return () => query.removeEventListener('change', listener);
    },
    () => window.innerWidth < PHONE_PX,
    () => false,
  );
}

function useTheme(theme: Scene['panel']['theme']): void {
  useEffect(() => {
    if (theme === 'browser') return;
    const root = document.documentElement;
    const before = root.dataset.theme;
    root.dataset.theme = theme === 'day' ? 'oat' : 'kiln';
    return () => {
      if (before === undefined) delete root.dataset.theme;
      else root.dataset.theme = before;
    };
  }, [theme]);
}

/** The page's own texts for a tag, as a person sees them, with the sample that each was drawn from. */
function readDrawn(tagId: string, language: string | null): readonly Drawn[] {
  return [...document.querySelectorAll<HTMLElement>(`[data-element][data-shows="${CSS.escape(tagId)}"]`)].map((drawn) => ({
    elementId: drawn.dataset.element ?? '',
    text: drawn.innerText,
    sample: Number(drawn.dataset.sample ?? 0),
    visibility: document.visibilityState === 'visible' ? 'visible' : 'hidden',
    language,
  }));
}
