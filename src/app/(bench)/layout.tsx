import type { ReactNode } from 'react';
import { Shell } from '@/ui/shell/Shell.tsx';

export default function BenchLayout({ children }: { readonly children: ReactNode }) {
  return <Shell>{children}</Shell>;
}
