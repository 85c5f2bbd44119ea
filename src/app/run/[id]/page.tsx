import { PhoneRun } from '@/ui/check/phone/PhoneRun.tsx';

export default async function Page({ params }: { readonly params: Promise<{ id: string }> }) {
  return <PhoneRun id={(await params).id} />;
}
