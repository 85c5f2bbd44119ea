import { CheckBench } from '@/ui/check/CheckBench.tsx';

export default function Page() {
  return <CheckBench />;
}
