/** Messages between the server and the thread of the database. */
export interface Statement {
  readonly sql: string;
  readonly params?: readonly unknown[];
  /** What a `copy … from stdin` reads. */
  readonly copy?: string;
}
export type WorkerRequest =
  | { readonly id: number; readonly kind: 'open'; readonly folder: string }
  /** The first statements of a transaction whose last ones are still to come. */
  | { readonly id: number; readonly kind: 'part'; readonly statements: readonly Statement[] }
  | { readonly id: number; readonly kind: 'transaction'; readonly statements: readonly Statement[] }
  /** Asks for the rest of an answer. */
  | { readonly id: number; readonly kind: 'next' }
  | { readonly id: number; readonly kind: 'script'; readonly sql: string }
  /** Stands outside any transaction. */
  | { readonly id: number; readonly kind: 'vacuum'; readonly tables: readonly string[] }
  /** Copies the whole database as it stands on disk, in a moment in which nothing is written. */
  | { readonly id: number; readonly kind: 'copy'; readonly to: string }
  | { readonly id: number; readonly kind: 'close' };
export type WorkerReply =
  /** Rows of each statement; with `more`, those that come first. */
  { readonly id: number; readonly rows: readonly unknown[][]; readonly more: boolean } | { readonly id: number; readonly error: string };
