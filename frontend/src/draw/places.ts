/** Finding points, handles and stretches of loops by where they are, and mirroring. */
import { corner, type DrawnPoint, type Loop, type Pair } from './nodes';

/** A point of a loop, by their numbers. */
export type Chosen = { loop: number; point: number } | null;

/** An open profile closed to the axis, as it is turned; sign: on which side of it. */
export function onAxis(loop: Loop, sign: 1 | -1): Loop {
  const points = loop.points.map((p) => ({
    ...p,
    x: sign * p.x,
    before: [sign * p.before[0], p.before[1]] as Pair,
    after: [sign * p.after[0], p.after[1]] as Pair,
  }));
  const first = points[0];
  const last = points[points.length - 1];
  if (loop.closed || !first || !last) return { ...loop, points };
  return { closed: true, points: [corner(0, first.y), ...points, corner(0, last.y)] };
}

export function pointAt(loops: Loop[], [x, y]: Pair, reach: number): Chosen {
  let best: Chosen = null;
  let least = reach;
  loops.forEach((l, loop) => {
    l.points.forEach((p, point) => {
      const away = Math.hypot(p.x - x, p.y - y);
      if (away < least) {
        least = away;
        best = { loop, point };
      }
    });
  });
  return best;
}

export function handleAt(
  loops: Loop[],
  chosen: NonNullable<Chosen>,
  [x, y]: Pair,
  reach: number,
): 'before' | 'after' | null {
  const p = loops[chosen.loop]?.points[chosen.point];
  if (!p) return null;
  const near = (['before', 'after'] as const).find(
    (which) =>
      Math.hypot(...p[which]) > 1e-6 && Math.hypot(p.x + p[which][0] - x, p.y + p[which][1] - y) < reach,
  );
  return near ?? null;
}

/** A handle drawn elsewhere; of a smooth point the other one turns with it, unless Alt is held. */
export function bent(p: DrawnPoint, which: 'before' | 'after', to: Pair, alone: boolean): DrawnPoint {
  const other = which === 'before' ? 'after' : 'before';
  const length = Math.hypot(...p[other]);
  const reach = Math.max(Math.hypot(...to), 1e-9);
  if (!p.smooth || alone) return { ...p, [which]: to, smooth: p.smooth && !alone };
  return { ...p, [which]: to, [other]: [(-to[0] / reach) * length, (-to[1] / reach) * length] };
}

/** The point that stands where a point's mirror image is. */
export function twinOf(loops: Loop[], at: NonNullable<Chosen>): Chosen {
  const p = loops[at.loop]?.points[at.point];
  const found = p && Math.abs(p.x) > 1e-6 ? pointAt(loops, [-p.x, p.y], 1e-3) : null;
  return found && !(found.loop === at.loop && found.point === at.point) ? found : null;
}

export const onLine = (loops: Loop[], at: NonNullable<Chosen>) =>
  Math.abs(loops[at.loop]?.points[at.point]?.x ?? 1) < 1e-6;

/** Back along the mirror image, without what stands on the line. */
export const mirrored = (points: Pair[]): Pair[] =>
  [...points]
    .reverse()
    .filter(([x]) => Math.abs(x) > 1e-6)
    .map(([x, y]) => [-x, y]);

export function nearestStretch(
  loops: Loop[],
  [x, y]: Pair,
): { loop: number; after: number; away: number } | null {
  let best: { loop: number; after: number; away: number } | null = null;
  loops.forEach((l, loop) => {
    l.points.forEach((a, after) => {
      const b = l.points[after + 1] ?? (l.closed ? l.points[0] : undefined);
      if (!b) return;
      for (let t = 0; t <= 1; t += 0.05) {
        const s = 1 - t;
        const at = (k: 0 | 1, from: number, to: number) =>
          s ** 3 * from +
          3 * s * s * t * (from + a.after[k]) +
          3 * s * t * t * (to + b.before[k]) +
          t ** 3 * to;
        const away = Math.hypot(at(0, a.x, b.x) - x, at(1, a.y, b.y) - y);
        if (!best || away < best.away) best = { loop, after, away };
      }
    });
  });
  return best;
}

/** A point changed. */
export const withPoint = (
  loops: Loop[],
  at: NonNullable<Chosen>,
  change: (p: DrawnPoint) => DrawnPoint,
): Loop[] =>
  loops.map((l, i) =>
    i === at.loop ? { ...l, points: l.points.map((p, k) => (k === at.point ? change(p) : p)) } : l,
  );

/** A point taken out; a loop that is left with too little to enclose anything goes with its last points. */
export function without(loops: Loop[], { loop, point }: NonNullable<Chosen>): Loop[] {
  return loops
    .map((l, i) => (i === loop ? { ...l, points: l.points.filter((_, k) => k !== point) } : l))
    .filter((l) => l.points.length >= 2);
}
