/**
 * Cells of a table as people paste or type it: parted by tabs, else by semicolons, else by commas, else by spaces. Commas part
 * decimals where spaces follow numbers, as in `12,5 13,0`.
 */
export function pastedCells(pasted: string): string[][] {
  const lines = pasted.split(/\r?\n/).filter((line) => line.trim())
  const has = (part: string) => lines.some((line) => line.includes(part))
  const spaced = lines.some((line) => /\d,\d+\s+\S/.test(line.trim()))
  const by = has('\t') ? '\t' : has(';') ? ';' : has(',') && !spaced ? ',' : /\s+/
  return lines.map((line) => (by instanceof RegExp ? line.trim() : line).split(by).map((cell) => cell.trim()))
}

/** The cells as they are shown to be corrected. */
export const shownCells = (rows: string[][]): string => rows.map((row) => row.join('\t')).join('\n')
