import { describe, expect, it } from 'vitest';
import { corner, type Loop, standsOut, withArcAfter } from '../src/draw/nodes';

const square: Loop = {
  closed: true,
  points: [corner(0, 0), corner(10, 0), corner(10, 10), corner(0, 10)],
};

/** Points along the cubic after a point. */
function along(loop: Loop, index: number): [number, number][] {
  const a = loop.points[index];
  const b = loop.points[(index + 1) % loop.points.length];
  if (!a || !b) return [];
  return Array.from({ length: 21 }, (_, i) => {
    const t = i / 20;
    const mix = (p: number, q: number, r: number, s: number) =>
      (1 - t) ** 3 * p + 3 * t * (1 - t) ** 2 * q + 3 * t * t * (1 - t) * r + t ** 3 * s;
    return [
      mix(a.x, a.x + a.after[0], b.x + b.before[0], b.x),
      mix(a.y, a.y + a.after[1], b.y + b.before[1], b.y),
    ];
  });
}

describe('a stretch made an arc', () => {
  // From (0, 0) to (10, 0), out of the square to the right of its way, so below 0.
  it.each([-5, -1, -2.5, -8, 3])('stands out by %d mm and keeps to one circle', (out) => {
    const made = withArcAfter(square, 0, out);
    const more = made.points.length - square.points.length;
    // The circle through both ends that stands so far out.
    const radius = (25 + out * out) / (2 * Math.abs(out));
    const middle = [5, out - Math.sign(out) * radius] as const;
    const points = Array.from({ length: more + 1 }, (_, i) => along(made, i)).flat();
    for (const [x, y] of points)
      expect(Math.abs(Math.hypot(x - middle[0], y - middle[1]) - radius)).toBeLessThan(radius * 1e-3);
    const extreme = out > 0 ? Math.max(...points.map((p) => p[1])) : Math.min(...points.map((p) => p[1]));
    expect(extreme).toBeCloseTo(out, 2);
    expect(made.points[more + 1]).toMatchObject({ x: 10, y: 0 });
  });

  it('is straight again at 0, and says how far it stands out', () => {
    const bent = withArcAfter(square, 1, 1.5);
    expect(standsOut(bent, 1)).toBeCloseTo(1.5, 2);
    const straight = withArcAfter(bent, 1, 0);
    expect(straight.points.map((p) => [p.x, p.y, ...p.after, ...p.before])).toEqual(
      square.points.map((p) => [p.x, p.y, 0, 0, 0, 0]),
    );
  });
});
