/** The cells of what a spreadsheet puts into the clipboard: tabs between cells, quotation marks around those that hold several lines. Loaded when something is pasted. */
export async function readPasted(text: string): Promise<string[][]> {
  const { parse } = await import('csv-parse/browser/esm/sync');
  const cells = (quote: '"' | null) =>
    parse(text, {
      delimiter: '\t',
      quote,
      relax_column_count: true,
      skip_empty_lines: false,
    }) as string[][];
  try {
    return cells('"');
  } catch {
    // Plain lines in which a quotation mark is one.
    return cells(null);
  }
}
