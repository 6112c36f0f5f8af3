/** A number as people type it, with a point or a comma before its decimals: `null` when nothing stands there, NaN when it is no number. */
export function typedNumber(typed: string): number | null {
  const text = typed.trim()
  return text ? Number(text.replace(',', '.').replace('−', '-')) : null
}
