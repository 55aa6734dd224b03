/** What was measured on a piece, in numbers and words. */
import type { MeasuredSpot as Spot } from '../api/client';
import { short } from '../controls/format';

/** mm between two points. */
export const distance = (a: Spot, b: Spot): number =>
  Math.hypot(...a.point.map((v, k) => v - (b.point[k] as number)));

/** Degrees between two faces, as a corner between them is told: 180 where one goes on in the other. */
export function angleBetween(a: Spot, b: Spot): number {
  const dot = a.normal.reduce((sum, v, k) => sum + v * (b.normal[k] as number), 0);
  return 180 - (Math.acos(Math.min(1, Math.max(-1, dot))) * 180) / Math.PI;
}

const onFace = ({ kind }: Spot) => kind === 'surface' || kind === 'middle';

/** What there is to say of one spot, in words. */
export function saySpot(spot: Spot): string {
  const said = [`${spot.kind}, ${short(spot.point[2], 2)} mm over the floor`];
  if (spot.radius != null) said.push(`round of radius ${short(spot.radius, 3)} mm`);
  if (spot.thickness != null && onFace(spot)) said.push(`${short(spot.thickness, 3)} mm thick`);
  return said.join(' · ');
}

/** The ways along the axes, and the angle where both ends lie on faces. */
export function sayWays(from: Spot, to: Spot): string {
  const ways = from.point.map((v, k) => short(Math.abs((to.point[k] as number) - v), 2)).join(', ');
  const angle = onFace(from) && onFace(to) ? ` · faces ${short(angleBetween(from, to), 2)}°` : '';
  return `x, y, z: ${ways}${angle}`;
}
