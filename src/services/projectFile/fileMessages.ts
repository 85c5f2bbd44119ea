/** Messages between the server and the thread in which a project file is written or read. */
import type { Difference, FiledProject, PictureData } from '@/core/projectFile/projectFile.ts';

export type FileAsk =
  /** Things of the project as it stands, a portion of them: JSON of an array. */
  | { readonly kind: 'things'; readonly place: keyof FiledProject; readonly json: string }
  /** The bytes of a picture of it, before it is written. */
  | { readonly kind: 'picture'; readonly picture: PictureData }
  /** Begins to write the file of what was told. */
  | { readonly kind: 'write'; readonly exportedAt: string }
  /** The next bytes of it: {@link FileBytes}. */
  | { readonly kind: 'bytes' }
  /** Reads a file: a result of {@link FileHead}. */
  | { readonly kind: 'read'; readonly zip: Uint8Array }
  /** Compares it with what was told: {@link Compared}. */
  | { readonly kind: 'compare' }
  | { readonly kind: 'changes'; readonly from: number }
  | { readonly kind: 'proofs'; readonly from: number }
  /** The picture at a place: {@link PictureData}. */
  | { readonly kind: 'pictureAt'; readonly at: number };

export interface FileBytes {
  readonly bytes: Uint8Array;
  readonly isLast: boolean;
}
export interface FileHead {
  readonly name: string;
  readonly exportedAt: string;
  readonly proofCount: number;
  readonly pictureCount: number;
}
export interface Compared {
  readonly differences: readonly Difference[];
  readonly changeCount: number;
}
