import { CopiesBench } from '@/ui/copies/CopiesBench.tsx';

export default function Page() {
  return <CopiesBench />;
}
