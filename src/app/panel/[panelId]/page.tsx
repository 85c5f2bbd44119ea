import { PanelScreen } from '@/ui/panels/PanelScreen.tsx';

export default async function Page({
  params,
  searchParams,
}: {
  readonly params: Promise<{ panelId: string }>;
  readonly searchParams: Promise<{ page?: string; embedded?: string }>;
}) {
  const { page, embedded } = await searchParams;
  return <PanelScreen panelId={(await params).panelId} pageId={page ?? null} embedded={embedded === '1'} />;
}
