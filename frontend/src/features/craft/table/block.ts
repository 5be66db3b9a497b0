/** A block of cells as a spreadsheet copies it: rows by lines, cells by tabs. One cell is no block. */
export function blockOf(text: string): string[][] | null {
  const lines = text.replace(/\r/g, "").replace(/\n+$/, "").split("\n");
  const cells = lines.map((line) => line.split("\t").map((cell) => cell.trim()));
  return lines.length > 1 || (cells[0]?.length ?? 0) > 1 ? cells : null;
}

/** Whether the first row of a block is heads: no figure stands in it. */
export const hasHeads = (block: string[][]): boolean =>
  block.length > 1 && !(block[0] ?? []).some((cell) => /\d/.test(cell));
