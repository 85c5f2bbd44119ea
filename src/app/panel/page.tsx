import { PanelChooser } from '@/ui/panels/PanelChooser.tsx';

export default function Page() {
  return <PanelChooser />;
}
