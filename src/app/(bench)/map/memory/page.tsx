import { MemoryBench } from '@/ui/map/MemoryBench.tsx';

export default function Page() {
  return <MemoryBench />;
}
