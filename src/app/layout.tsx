import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import './globals.css';

export const metadata: Metadata = { title: 'Mill Latch', description: "From a controller's register to the operator's glass" };

/** Sets the theme before the first paint, from what this browser chose last. */
const THEME = `try{var t=localStorage.getItem('mill-latch.theme');if(t)document.documentElement.dataset.theme=t}catch(e){}`;

export default function Layout({ children }: { readonly children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script dangerouslySetInnerHTML={{ __html: THEME }} />
      </head>
      <body>{children}</body>
    </html>
  );
}
