/** What keeps the database from storing anything. Thrown where something was to be stored or read; its code is told on. */
export class StoreTrouble extends Error {
  readonly code: 'disk-full' | 'store-stuck';

  constructor(code: StoreTrouble['code'], message: string) {
    super(message);
    this.code = code;
  }
}

export const FULL = 'The disk of the data folder is full: nothing was stored.';
export const STUCK = 'The database gives no answer: nothing can be stored until Mill Latch is started again.';

/** What a full disk makes the database say. */
export function isFull(message: string): boolean {
  return /no space left|ENOSPC|disk full/i.test(message);
}
