/** The largest lists that are taken. */
export const MAX_LIST_BYTES = 200_000_000;
export const MAX_LIST_ROWS = 1_000_000;
export const MAX_LIST_COLUMNS = 1000;
/** Characters of one cell: the longest texts are names of a few hundred values. */
export const MAX_CELL_CHARACTERS = 20_000;
/** Of many problems of one kind so many are told. */
export const MAX_PROBLEMS = 1000;
