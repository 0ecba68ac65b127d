/** Returns the increment so many on, round and round; from none the first or the last. */
export function stepIncrement(order: number | null, by: number, count: number): number | null {
  if (count === 0) return null;
  const place = order === null ? (by > 0 ? -1 : 0) : order - 1;
  return ((((place + by) % count) + count) % count) + 1;
}
