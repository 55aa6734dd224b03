/** A limb's points as they are changed in the view; no page in here. */
import type { Primitive } from '../api/client';

export type Limb = Extract<Primitive, { kind: 'limb' }>;
export type Triple = [number, number, number];

const tidy = (v: number) => Number(v.toFixed(3)) + 0;

export const moved = (limb: Limb, index: number, to: Triple): Limb => ({
  ...limb,
  points: limb.points.map((p, i) => (i === index ? (to.map(tidy) as Triple) : p)) as Limb['points'],
});

export const thick = (limb: Limb, index: number, radius: number): Limb => ({
  ...limb,
  radii: limb.radii.map((r, i) => (i === index ? Math.max(0.1, tidy(radius)) : r)) as Limb['radii'],
});

/** One more point halfway to the next, or from the last as far on again. */
export function extended(limb: Limb, after: number): Limb {
  const a = limb.points[after] as Triple;
  const r = limb.radii[after] as number;
  const last = after === limb.points.length - 1;
  const b = (limb.closed && last ? limb.points[0] : limb.points[after + 1]) as Triple | undefined;
  const before = (limb.points[after - 1] ?? a) as Triple;
  const at = a.map((v, i) => tidy(b ? (v + (b[i] as number)) / 2 : 2 * v - (before[i] as number))) as Triple;
  const radius = b ? (r + (limb.radii[(after + 1) % limb.radii.length] as number)) / 2 : r;
  return {
    ...limb,
    points: [...limb.points.slice(0, after + 1), at, ...limb.points.slice(after + 1)] as Limb['points'],
    radii: [...limb.radii.slice(0, after + 1), tidy(radius), ...limb.radii.slice(after + 1)] as Limb['radii'],
  };
}

export const shortened = (limb: Limb, index: number): Limb => ({
  ...limb,
  points: limb.points.filter((_, i) => i !== index) as Limb['points'],
  radii: limb.radii.filter((_, i) => i !== index) as Limb['radii'],
});
