/** A rectangle of cells of the map. */
export interface Block {
  readonly row: number;
  readonly column: number;
  readonly rows: number;
  readonly columns: number;
}

export interface Corner {
  readonly row: number;
  readonly column: number;
}

/** From the selected cell to the other corner; the cell alone where there is none. @param count how many rows there are */
export function blockOf(row: number, column: number, corner: Corner | null, count: number): Block {
  if (row < 0) return { row: 0, column, rows: 0, columns: 1 };
  const other = corner ? { row: Math.min(corner.row, count - 1), column: corner.column } : { row, column };
  return {
    row: Math.min(row, other.row),
    column: Math.min(column, other.column),
    rows: Math.abs(row - other.row) + 1,
    columns: Math.abs(column - other.column) + 1,
  };
}

export function isIn(block: Block | null, column: number): boolean {
  return block !== null && column >= block.column && column < block.column + block.columns;
}
