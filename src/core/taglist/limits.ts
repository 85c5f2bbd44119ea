/** The largest lists that are taken. */
export const MAX_LIST_BYTES = 200_000_000;
export const MAX_LIST_ROWS = 1_000_000;
