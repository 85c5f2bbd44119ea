import { WatchBench } from '@/ui/check/watch/WatchBench.tsx';

export default function Page() {
  return <WatchBench />;
}
