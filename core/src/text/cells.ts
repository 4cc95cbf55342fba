const PART = ' | ';
/** Several values in one cell: parted by strokes; where a value holds a stroke or a backslash itself, a backslash stands before it. */
export const joined = (values: readonly string[]): string =>
  values.map((value) => value.replace(/[\\|]/g, '\\$&')).join(PART);
/** The values of a cell. */
export function parted(cell: string): string[] {
  const values = [''];
  for (const [piece] of cell.matchAll(/\\[\\|]|\||[^\\|]+|\\/g)) {
    if (piece === '|') values.push('');
    else values.push(`${values.pop()}${piece.length === 2 && piece.startsWith('\\') ? piece.slice(1) : piece}`);
  }
  return values.map((value) => value.trim()).filter(Boolean);
}

/** A cell that a spreadsheet would take for a formula gets a quotation mark before it, and so does one that has such a mark already. */
const FORMULA = /^'*[=+\-@\t\r]/;
export const neutral = (cell: string): string => (FORMULA.test(cell) ? `'${cell}` : cell);
/** A cell as it was before {@link neutral}, without space around. */
export const plain = (cell: string): string =>
  (cell.startsWith("'") && FORMULA.test(cell) ? cell.slice(1) : cell).trim();
