import { SharedBench } from '@/ui/scale/SharedBench.tsx';

export default function Page() {
  return <SharedBench />;
}
