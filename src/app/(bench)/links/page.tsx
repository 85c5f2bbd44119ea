import { Suspense } from 'react';
import { LinksBench } from '@/ui/links/LinksBench.tsx';

export default function Page() {
  return (
    <Suspense>
      <LinksBench />
    </Suspense>
  );
}
