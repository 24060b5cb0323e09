/** Room a label takes beside the staff, and the least when there are too many of them [px]. */
export const APART = 40,
  LEAST_APART = 26;

/** Heights of labels beside the staff, by step: each keeps clear of the one below it, and none leaves the top. */
export function placeLabels(labels: readonly { step: number; at: number }[], top: number): Map<number, number> {
  const rows = [...labels].sort((a, b) => b.at - a.at);
  let ceiling = Infinity;
  const placed = new Map<number, number>();
  for (const row of rows) {
    const at = Math.min(row.at, ceiling - APART);
    placed.set(row.step, at);
    ceiling = at;
  }
  // If that pushed the top one off the rod, move the upper ones back down as far as they fit.
  let floor = top;
  for (const row of rows.reverse()) {
    const at = Math.max(placed.get(row.step) ?? 0, floor);
    placed.set(row.step, at);
    floor = at + LEAST_APART;
  }
  return placed;
}
