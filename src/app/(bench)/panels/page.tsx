import { PanelsBench } from '@/ui/panels/PanelsBench.tsx';

export default function Page() {
  return <PanelsBench />;
}
