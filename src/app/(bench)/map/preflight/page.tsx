import { PreflightBench } from '@/ui/map/PreflightBench.tsx';

export default function Page() {
  return <PreflightBench />;
}
