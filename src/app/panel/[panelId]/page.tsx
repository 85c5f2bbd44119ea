import { PanelScreen } from '@/ui/panels/PanelScreen.tsx';
import { services } from '../../api/http/services.ts';

export default async function Page({
  params,
  searchParams,
}: {
  readonly params: Promise<{ panelId: string }>;
  readonly searchParams: Promise<{ page?: string; embedded?: string }>;
}) {
  const { page, embedded } = await searchParams;
  const { panelId } = await params;
  // With the page comes what it draws: nothing more has to be asked for.
  const bundle = services().panels.bundle(panelId);
  const opened = bundle.ok ? { bundle: bundle.value, revision: services().projects.revision } : null;
  return <PanelScreen panelId={panelId} pageId={page ?? null} embedded={embedded === '1'} opened={opened} />;
}
