/** Where a section is: across the axes of the wheel, or along a face; and what of it the server is asked. */
import * as THREE from 'three';
import type { SectionAt, Vector } from '../controls/editor';

const AXES = {
  x: { along: [1, 0, 0], away: 1 },
  y: { along: [0, 1, 0], away: -1 },
  z: { along: [0, 0, 1], away: 1 },
} satisfies Record<string, { along: Vector; away: 1 | -1 }>;

type Bounds = [number[], number[]] | null | undefined;

/** Across an axis, through the middle of what stands there. */
export function acrossAxis(name: 'x' | 'y' | 'z', bounds: Bounds): SectionAt {
  const section = { name, ...AXES[name], base: 0, at: 0 } as SectionAt;
  const [low, high] = reachOf(section, bounds);
  return { ...section, at: (low + high) / 2 };
}

/** How far in from a face its section begins, mm: enough to see that something is cut. */
const IN_FROM_FACE = 0.5;

export function alongFace(point: Vector, normal: Vector): SectionAt {
  const base = new THREE.Vector3(...normal).dot(new THREE.Vector3(...point));
  return { name: 'face', along: normal, base, at: -IN_FROM_FACE, away: 1 };
}

/** From where to where a section cuts anything, as its number. */
export function reachOf({ along, base }: SectionAt, bounds: Bounds): [number, number] {
  if (!bounds) return [-50, 50];
  const [low, high] = bounds;
  const ends = along.map((n, k) => [n * (low[k] as number), n * (high[k] as number)]);
  const sum = (pick: (...of: number[]) => number) => ends.reduce((all, e) => all + pick(...e), -base);
  return [sum(Math.min), sum(Math.max)];
}

/** The plane, its normal towards what is not drawn. */
export function planeOf({ along, base, at, away }: SectionAt): { normal: Vector; at: number } {
  return { normal: along.map((n) => away * n + 0) as Vector, at: away * (base + at) };
}
