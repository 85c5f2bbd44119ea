import { AlarmsBench } from '@/ui/alarms/AlarmsBench.tsx';

export default function Page() {
  return <AlarmsBench />;
}
