import { ScaleBench } from '@/ui/scale/ScaleBench.tsx';

export default function Page() {
  return <ScaleBench />;
}
