import { MemoryBench } from '@/ui/memory/MemoryBench.tsx';

export default function Page() {
  return <MemoryBench />;
}
