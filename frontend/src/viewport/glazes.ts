/** Glazes that run over into each other where parts run together. */
import type * as THREE from 'three';
import { type Known, parentsOf } from '../controls/tree';
import type { Drawable } from './meshes';

/** How far from the middle of a run a glaze reaches, in radii of the run. */
const REACH = 0.8;

/** A colour for every corner of a mesh: its part's. otherwise: of parts that have none. */
export function cornerColours(
  partOf: Uint32Array,
  colours: THREE.Color[],
  otherwise: THREE.Color,
): Float32Array {
  const paint = new Float32Array(partOf.length * 3);
  partOf.forEach((part, corner) => {
    (colours[part] ?? otherwise).toArray(paint, 3 * corner);
  });
  return paint;
}

/** The radius over which two parts of the recipe run into each other, mm; 0 where they meet sharply. */
export function radiusBetween(known: Map<string, Known>, one: string, other: string): number {
  const [up, down] = [one, other].map((id) => [...parentsOf(known, id), id]) as [string[], string[]];
  const fork = up.findIndex((id, depth) => id !== down[depth]);
  const [a, b] = [known.get(up[fork] ?? ''), known.get(down[fork] ?? '')];
  if (!a || !b) return 0;
  const later = a.index > b.index ? a : b;
  return later.part.blend ?? later.parent?.join?.blend ?? 0;
}

/** With every corner's own glaze, as much of another part's as runs over to it: half in the middle of the run. */
export function runOver(
  drawable: Drawable,
  glazes: THREE.Color[],
  paint: Float32Array,
  radius: (part: number, other: number) => number,
) {
  const { partOf } = drawable;
  const { into, far, reach } = distances(drawable, radius);
  into.forEach((other, corner) => {
    const [mine, theirs] = [glazes[partOf[corner] as number], glazes[other]];
    if (other < 0 || !mine || !theirs) return;
    const t = Math.min(1, (far[corner] as number) / (reach[corner] as number));
    const share = 0.5 * (1 - t * t * (3 - 2 * t));
    mine
      .clone()
      .lerp(theirs, share)
      .toArray(paint, 3 * corner);
  });
}

type Distances = { into: Int32Array; far: Float32Array; reach: Float32Array };

/** For every corner near a border which part lies beyond it (-1: none), how far that is, and how far it reaches, mm. */
function distances(
  { geometry, data, partOf, vertexOf }: Drawable,
  radius: (part: number, other: number) => number,
): Distances {
  const into = new Int32Array(partOf.length).fill(-1);
  const far = new Float32Array(partOf.length);
  const reach = new Float32Array(partOf.length);
  const meet = (corner: number, other: number, width: number) => {
    into[corner] = other;
    reach[corner] = width;
  };
  const first = new Int32Array(data.vertices.length / 3).fill(-1);
  partOf.forEach((part, corner) => {
    const vertex = vertexOf[corner] as number;
    const before = first[vertex] as number;
    if (before < 0) first[vertex] = corner;
    else if (partOf[before] !== part) {
      const other = partOf[before] as number;
      const width = REACH * radius(part, other);
      if (width > 0) {
        meet(corner, other, width);
        if ((into[before] as number) < 0) meet(before, part, width);
      }
    }
  });
  const index = geometry.index?.array as Uint32Array;
  const at = geometry.getAttribute('position').array as Float32Array;
  const length = (a: number, b: number) =>
    Math.hypot(
      (at[3 * a] as number) - (at[3 * b] as number),
      (at[3 * a + 1] as number) - (at[3 * b + 1] as number),
      (at[3 * a + 2] as number) - (at[3 * b + 2] as number),
    );
  let changed = true;
  const along = (a: number, b: number) => {
    if ((into[a] as number) < 0) return;
    const to = Math.fround((far[a] as number) + length(a, b)); // as exactly as it is kept
    if (to >= (reach[a] as number) || ((into[b] as number) >= 0 && (far[b] as number) <= to)) return;
    meet(b, into[a] as number, reach[a] as number);
    far[b] = to;
    changed = true;
  };
  while (changed) {
    changed = false;
    for (let c = 0; c < index.length; c += 3) {
      const [i, j, k] = [index[c] as number, index[c + 1] as number, index[c + 2] as number];
      if ((into[i] as number) < 0 && (into[j] as number) < 0 && (into[k] as number) < 0) continue;
      along(i, j);
      along(j, i);
      along(j, k);
      along(k, j);
      along(k, i);
      along(i, k);
    }
  }
  return { into, far, reach };
}
