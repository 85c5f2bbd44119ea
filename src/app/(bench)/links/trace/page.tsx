import { Suspense } from 'react';
import { TraceBench } from '@/ui/links/TraceBench.tsx';

export default function Page() {
  return (
    <Suspense>
      <TraceBench />
    </Suspense>
  );
}
