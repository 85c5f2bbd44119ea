import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import '../ui/globals.css';

export const metadata: Metadata = { title: 'Mill Latch', description: "From a controller's memory to the operator's glass" };

/** Sets the theme before the first paint, from what this browser chose last. */
const THEME = `try{var t=localStorage.getItem('mill-latch.theme');if(t)document.documentElement.dataset.theme=t}catch(e){}`;

/** Every page is written when it is asked for, since its scripts have the number of that answer. */
export default async function Layout({ children }: { readonly children: ReactNode }) {
  const nonce = (await headers()).get('x-mill-latch-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: THEME }} />
      </head>
      <body>{children}</body>
    </html>
  );
}
