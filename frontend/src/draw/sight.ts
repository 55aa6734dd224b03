/** What is seen of the sheet, and the steps that can be told apart on it. */
import type { Loop, Pair } from './nodes';

/** What lies in the middle of the sheet, mm, and how many mm a pixel is. */
export type Seen = { x: number; y: number; mm: number };

/** A step of the grid that is at least so many pixels wide: the grid's own, or 2, 5, 10 times it and so on. */
export function nice(grid: number, mm: number, least = 3): number {
  let step = grid;
  for (const by of [2, 2.5, 2]) if (step / mm < least) step *= by;
  while (step / mm < least) step *= 10;
  return step;
}

/** Where the whole drawing is seen; of a profile with its axis. */
export function seenWhole(loops: Loop[], [width, height]: Pair, profile: boolean): Seen {
  const points = loops.flatMap((l) =>
    l.points.flatMap((p) => [
      p,
      { x: p.x + p.before[0], y: p.y + p.before[1] },
      { x: p.x + p.after[0], y: p.y + p.after[1] },
    ]),
  );
  const xs = [...points.map((p) => p.x), ...(profile ? [0, ...points.map((p) => -p.x * 0.35)] : [])];
  const ys = points.map((p) => p.y);
  if (!ys.length) return { x: 0, y: 0, mm: 0.1 };
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const mm = Math.max(
    (right - left) / Math.max(width - 100, 50),
    (high - low) / Math.max(height - 90, 50),
    0.002,
  );
  return { x: (left + right) / 2, y: (low + high) / 2, mm };
}
