/** A drawing as points with handles, and what it says as the fields of a form; no page in here. */
import type { Primitive } from '../api/client';

export type Pair = [number, number];

/** before, after: where the handles of the curves to it and from it stand, seen from it; none are [0, 0]. */
export type DrawnPoint = { x: number; y: number; smooth: boolean; before: Pair; after: Pair };
/** closed: the last point is linked to the first. */
export type Loop = { points: DrawnPoint[]; closed: boolean };

export type Turned = Extract<Primitive, { kind: 'turned' }>;
export type Outline = Extract<Primitive, { kind: 'outline' }>;

const NONE: Pair = [0, 0];
const HAIR = 1e-6;
/** Of an arc that one cubic is: it is within a thousandth of the radius then. */
const MOST_TURN = (100 * Math.PI) / 180;

export const corner = (x: number, y: number): DrawnPoint => ({
  x,
  y,
  smooth: false,
  before: NONE,
  after: NONE,
});

const far = ([x, y]: Pair) => Math.hypot(x, y);
/** Ten-thousandths of a millimetre: no more is drawn by hand, and files stay readable. */
export const tidy = (v: number) => Number(v.toFixed(4)) + 0;

/** The profile of a turned form as one open loop. */
export function loopOfProfile(form: Turned): Loop {
  const points = form.profile.map(([x, y], i) => ({
    ...corner(x as number, y as number),
    smooth: Boolean(form.smooth) && !(form.sharp ?? []).includes(i),
  }));
  const first = points[0];
  const last = points[points.length - 1];
  const closed =
    points.length > 3 && !!first && !!last && Math.hypot(first.x - last.x, first.y - last.y) < HAIR;
  return { points: closed ? points.slice(0, -1) : points, closed };
}

/** The fields of a turned form that say a loop; ends are neither smooth nor corners. */
export function profileOf({ points, closed }: Loop): Pick<Turned, 'profile' | 'smooth' | 'sharp'> {
  const profile = points.map((p) => [tidy(Math.max(0, p.x)), tidy(p.y)] as Pair);
  const smooth = points.some((p) => p.smooth);
  const first = profile[0];
  if (closed && first) profile.push([...first]);
  const sharp = smooth ? points.flatMap((p, i) => (p.smooth ? [] : [i])) : [];
  return { profile, smooth, sharp };
}

/** The corners of loops that are given as points. */
export const loopsOfPoints = (loops: number[][][]): Loop[] =>
  loops.map((loop) => ({ closed: true, points: loop.map(([x, y]) => corner(x as number, y as number)) }));

/** Loops as path data knows them; a point whose handles lie on one line is smooth. */
export function loopsOfHandles(loops: Omit<DrawnPoint, 'smooth'>[][]): Loop[] {
  return loops.map((loop) => ({ closed: true, points: loop.map((p) => ({ ...p, smooth: isSmooth(p) })) }));
}

function isSmooth({ before, after }: { before: Pair; after: Pair }): boolean {
  const [a, b] = [far(before), far(after)];
  if (a < HAIR || b < HAIR) return false;
  return (before[0] * after[0] + before[1] * after[1]) / (a * b) < -0.995;
}

/** The fields of an outline that say loops: points where all are corners, else curves. */
export function outlineOf(loops: Loop[]): Pick<Outline, 'loops' | 'svg'> {
  const straight = loops.every((l) => l.points.every((p) => far(p.before) < HAIR && far(p.after) < HAIR));
  if (straight)
    return { loops: loops.map((l) => l.points.map((p) => [tidy(p.x), tidy(p.y)] as Pair)), svg: null };
  return { loops: null, svg: pathOf(loops) };
}

/** Path data, y as it is. */
export function pathOf(loops: Loop[], put: (x: number, y: number) => string = plain): string {
  return loops
    .filter((l) => l.points.length > 1)
    .map(({ points, closed }) => {
      const [first] = points as [DrawnPoint];
      const ends = closed ? [...points.slice(1), first] : points.slice(1);
      let from = first;
      const segments = ends.map((to) => {
        const said = segment(from, to, put);
        from = to;
        return said;
      });
      return `M${put(first.x, first.y)} ${segments.join(' ')}${closed ? ' Z' : ''}`;
    })
    .join(' ');
}

const plain = (x: number, y: number) => `${tidy(x)} ${tidy(y)}`;

function segment(a: DrawnPoint, b: DrawnPoint, put: (x: number, y: number) => string): string {
  if (far(a.after) < HAIR && far(b.before) < HAIR) return `L${put(b.x, b.y)}`;
  const first = put(a.x + a.after[0], a.y + a.after[1]);
  const second = put(b.x + b.before[0], b.y + b.before[1]);
  return `C${first} ${second} ${put(b.x, b.y)}`;
}

/** The same loop with handles at its smooth points along the centripetal curve through them, as a turned form has it. */
export function curved(loop: Loop, mirrorAtAxis = false): Loop {
  const { points, closed } = loop;
  const count = points.length;
  if (count < 2 || !points.some((p) => p.smooth)) return loop;
  const at = (i: number) => points[closed ? (i + count) % count : i];
  const found = points.map((p) => ({ ...p, before: NONE, after: NONE }));
  const spans = closed ? count : count - 1;
  for (let i = 0; i < spans; i += 1) {
    const a = at(i) as DrawnPoint;
    const b = at(i + 1) as DrawnPoint;
    // A curve ends at a corner: what would come next is the neighbour, mirrored in it.
    const zero = (a.smooth && at(i - 1)) || end(a, b, mirrorAtAxis && i === 0);
    const three = (b.smooth && at(i + 2)) || end(b, a, mirrorAtAxis && i + 1 === count - 1);
    const [c1, c2] = controls(zero, a, b, three);
    (found[i] as DrawnPoint).after = [c1[0] - a.x, c1[1] - a.y];
    (found[(i + 1) % count] as DrawnPoint).before = [c2[0] - b.x, c2[1] - b.y];
  }
  return { points: found, closed };
}

type Spot = { x: number; y: number };

/** What stands before an end of a curve; one on the axis is left square to it. */
function end(at: Spot, next: Spot, mirror: boolean): Spot {
  return mirror && at.x < HAIR ? { x: -next.x, y: next.y } : { x: 2 * at.x - next.x, y: 2 * at.y - next.y };
}

/** The inner control points of the cubic that a centripetal Catmull-Rom span is. */
function controls(p0: Spot, p1: Spot, p2: Spot, p3: Spot): [Pair, Pair] {
  const gap = (a: Spot, b: Spot) => Math.max(Math.sqrt(Math.hypot(b.x - a.x, b.y - a.y)), 1e-9);
  const [d1, d2, d3] = [gap(p0, p1), gap(p1, p2), gap(p2, p3)];
  const one = (k: 'x' | 'y') =>
    (d1 * d1 * p2[k] - d2 * d2 * p0[k] + (2 * d1 * d1 + 3 * d1 * d2 + d2 * d2) * p1[k]) /
    (3 * d1 * (d1 + d2));
  const two = (k: 'x' | 'y') =>
    (d3 * d3 * p1[k] - d2 * d2 * p3[k] + (2 * d3 * d3 + 3 * d3 * d2 + d2 * d2) * p2[k]) /
    (3 * d3 * (d3 + d2));
  return [
    [one('x'), one('y')],
    [two('x'), two('y')],
  ];
}

/** A point made smooth, its handles along the line between its neighbours; or a corner without any. */
export function withSmooth(loop: Loop, index: number, smooth: boolean): Loop {
  const { points, closed } = loop;
  const p = points[index];
  if (!p) return loop;
  const count = points.length;
  const a = points[closed ? (index + count - 1) % count : index - 1];
  const b = points[closed ? (index + 1) % count : index + 1];
  const made: DrawnPoint = { ...p, smooth, before: NONE, after: NONE };
  if (smooth && a && b) {
    const along: Pair = [b.x - a.x, b.y - a.y];
    const length = Math.max(far(along), HAIR);
    const reach = (q: DrawnPoint) => Math.hypot(q.x - p.x, q.y - p.y) / 3 / length;
    made.before = [-along[0] * reach(a), -along[1] * reach(a)];
    made.after = [along[0] * reach(b), along[1] * reach(b)];
  }
  return { closed, points: points.map((q, i) => (i === index ? made : q)) };
}

/**
 * The stretch after `index` as an arc of a circle that stands so far out from the straight line, mm, to the left of its
 * way where that is above 0; with as many points as keep it within a thousandth of its radius.
 */
export function withArcAfter(loop: Loop, index: number, out: number): Loop {
  const { points, closed } = loop;
  const a = points[index];
  const b = points[(index + 1) % points.length];
  if (!a || !b || (!closed && index + 1 >= points.length)) return loop;
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const chord = Math.hypot(dx, dy);
  const straight = Math.abs(out) < HAIR || chord < HAIR;
  // The whole turn of the arc, and the middle of its circle.
  const turn = straight ? 0 : -4 * Math.atan((2 * out) / chord);
  const pieces = Math.max(1, Math.ceil(Math.abs(turn) / MOST_TURN - 1e-9));
  const radius = straight ? 0 : chord / 2 / Math.sin(turn / 2);
  const along = straight ? 0 : chord / 2 / Math.tan(turn / 2);
  const middle: Pair = [a.x + dx / 2 - (dy / chord) * along, a.y + dy / 2 + (dx / chord) * along];
  const reach = (4 / 3) * Math.tan(turn / pieces / 4);
  const handle = (p: { x: number; y: number }): Pair => [
    -(p.y - middle[1]) * reach + 0,
    (p.x - middle[0]) * reach + 0,
  ];
  const back = ([x, y]: Pair): Pair => [-x + 0, -y + 0];
  const between = Array.from({ length: pieces - 1 }, (_, i) => {
    const angle = Math.atan2(a.y - middle[1], a.x - middle[0]) + (turn * (i + 1)) / pieces;
    const size = Math.abs(radius);
    const p = { x: middle[0] + size * Math.cos(angle), y: middle[1] + size * Math.sin(angle) };
    return { ...p, smooth: true, before: back(handle(p)), after: handle(p) };
  });
  const next = points.map((p) => {
    if (p === a) return { ...p, smooth: false, after: straight ? NONE : handle(a) };
    return p === b ? { ...p, smooth: false, before: straight ? NONE : back(handle(b)) } : p;
  });
  return { closed, points: [...next.slice(0, index + 1), ...between, ...next.slice(index + 1)] };
}

/** How far the middle of the stretch after `index` stands out to the left of the straight line, mm. */
export function standsOut({ points }: Loop, index: number): number {
  const a = points[index];
  const b = points[(index + 1) % points.length];
  if (!a || !b) return 0;
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const middle: Pair = [(3 * (a.after[0] + b.before[0])) / 8, (3 * (a.after[1] + b.before[1])) / 8];
  return tidy((middle[1] * dx - middle[0] * dy) / Math.max(Math.hypot(dx, dy), HAIR));
}

/** One more point in the middle of the stretch after `index`, the curve left as it runs. */
export function withPointAfter(loop: Loop, index: number): Loop {
  const { points, closed } = loop;
  const a = points[index];
  const b = points[(index + 1) % points.length];
  if (!a || !b) return loop;
  const mix = (p: Pair, q: Pair): Pair => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
  const start: Pair = [a.x, a.y];
  const stop: Pair = [b.x, b.y];
  const c1: Pair = [a.x + a.after[0], a.y + a.after[1]];
  const c2: Pair = [b.x + b.before[0], b.y + b.before[1]];
  const straight = far(a.after) < HAIR && far(b.before) < HAIR;
  // De Casteljau's halves.
  const [ab, bc, cd] = [mix(start, c1), mix(c1, c2), mix(c2, stop)];
  const [abc, bcd] = [mix(ab, bc), mix(bc, cd)];
  const [x, y] = straight ? mix(start, stop) : mix(abc, bcd);
  const made: DrawnPoint = straight
    ? corner(x, y)
    : { x, y, smooth: true, before: [abc[0] - x, abc[1] - y], after: [bcd[0] - x, bcd[1] - y] };
  const next = points.map((p, i) => {
    if (straight) return p;
    if (i === index) return { ...p, after: [ab[0] - p.x, ab[1] - p.y] as Pair };
    if (p === b) return { ...p, before: [cd[0] - p.x, cd[1] - p.y] as Pair };
    return p;
  });
  return { closed, points: [...next.slice(0, index + 1), made, ...next.slice(index + 1)] };
}

/** A stroke of the hand as few points: those it needs to stay within `off` mm, smooth but where it turns sharply. */
export function fitted(stroke: Pair[], off: number): Loop {
  const kept = simplified(stroke, off);
  const first = kept[0];
  const last = kept[kept.length - 1];
  if (first && last && kept.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < 3 * off)
    kept.pop();
  let loop: Loop = { closed: true, points: kept.map(([x, y]) => corner(x, y)) };
  kept.forEach((p, i) => {
    const a = kept[(i + kept.length - 1) % kept.length] as Pair;
    const b = kept[(i + 1) % kept.length] as Pair;
    const [u, v]: [Pair, Pair] = [
      [p[0] - a[0], p[1] - a[1]],
      [b[0] - p[0], b[1] - p[1]],
    ];
    const bend = (u[0] * v[0] + u[1] * v[1]) / Math.max(far(u) * far(v), HAIR);
    if (bend > 0.2) loop = withSmooth(loop, i, true);
  });
  return loop;
}

/** Ramer, Douglas and Peucker's way: the points that the line needs to stay within `off` of all. */
export function simplified(points: Pair[], off: number): Pair[] {
  const [first, last] = [points[0], points[points.length - 1]];
  if (!first || !last || points.length < 3) return [...points];
  const along: Pair = [last[0] - first[0], last[1] - first[1]];
  const length = far(along);
  let [worst, at] = [0, 0];
  points.forEach((p, i) => {
    const [x, y] = [p[0] - first[0], p[1] - first[1]];
    const away = length < HAIR ? Math.hypot(x, y) : Math.abs(x * along[1] - y * along[0]) / length;
    if (away > worst) [worst, at] = [away, i];
  });
  if (worst <= off) return [first, last];
  return [...simplified(points.slice(0, at + 1), off).slice(0, -1), ...simplified(points.slice(at), off)];
}

/** A circle or a square as a loop of its own. */
export function ready(what: 'circle' | 'square', [x, y]: Pair, reach: number): Loop {
  if (what === 'square')
    return {
      closed: true,
      points: [
        corner(x - reach, y - reach),
        corner(x + reach, y - reach),
        corner(x + reach, y + reach),
        corner(x - reach, y + reach),
      ],
    };
  // Four cubic quarters: off a true circle by 0.03% of its radius.
  const k = reach * 0.5523;
  const at = (dx: number, dy: number): DrawnPoint => ({
    x: x + dx * reach,
    y: y + dy * reach,
    smooth: true,
    before: [dy * k, -dx * k],
    after: [-dy * k, dx * k],
  });
  return { closed: true, points: [at(1, 0), at(0, 1), at(-1, 0), at(0, -1)] };
}
