import { MapBench } from '@/ui/map/MapBench.tsx';

export default function Page() {
  return <MapBench />;
}
