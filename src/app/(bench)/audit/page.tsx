import { AuditBench } from '@/ui/audit/AuditBench.tsx';

export default function Page() {
  return <AuditBench />;
}
