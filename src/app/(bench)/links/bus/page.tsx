import { Suspense } from 'react';
import { BusBench } from '@/ui/links/BusBench.tsx';

export default function Page() {
  return (
    <Suspense>
      <BusBench />
    </Suspense>
  );
}
