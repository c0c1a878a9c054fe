/** Levels of a set in words: how it was asked to be thrown. */
export function levelsOf(levels: Record<string, string>): string {
  const said = Object.entries(levels).map(([factor, level]) => (factor === "effort" ? `${level} effort` : level)).join(", ");
  return said && said[0]!.toUpperCase() + said.slice(1);
}

/** A strike against the student's usual, in a word. */
export function wordFor(value: number, usual: { low: number; high: number } | undefined): string {
  if (!usual) return "landed";
  return value < usual.low ? "under" : value > usual.high ? "over" : "usual";
}
