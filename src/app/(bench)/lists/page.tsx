import { ListsBench } from '@/ui/lists/ListsBench.tsx';

export default function Page() {
  return <ListsBench />;
}
