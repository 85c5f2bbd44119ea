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
  // With the page comes what it draws first: nothing has to be asked for until that is there.
  const opened = services().panels.opening(panelId, page ?? null);
  return <PanelScreen panelId={panelId} pageId={page ?? null} embedded={embedded === '1'} opened={opened} />;
}
