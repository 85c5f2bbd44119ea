import { JoinScreen } from '@/ui/network/JoinScreen.tsx';

export default function Page() {
  return <JoinScreen />;
}
