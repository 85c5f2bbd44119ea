import { WritesBench } from '@/ui/writes/WritesBench.tsx';

export default function Page() {
  return <WritesBench />;
}
