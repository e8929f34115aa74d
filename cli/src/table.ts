/** Lines up cells in columns: the first to the left, the others to the right. */
export function formatTable(rows: readonly (readonly string[])[]): string {
  const widths = rows.reduce<number[]>(
    (most, row) => row.map((cell, i) => Math.max(most[i] ?? 0, cell.length)),
    [],
  )
  const line = (row: readonly string[]) =>
    row.map((cell, i) => (i === 0 ? cell.padEnd(widths[i]) : cell.padStart(widths[i]))).join('  ')
  return `${rows.map(line).join('\n')}\n`
}

/** A number with some decimals, `-` for an undefined one. */
export function figure(value: number | null, decimals = 1): string {
  return value === null ? '-' : value.toFixed(decimals)
}
