/** A number on every triangle, or every vertex, of a skin shown as a colour: how far it moved, how thick it is. */
import * as THREE from 'three';
import type { Drawable } from './meshes';

/** From one colour, at `least`, to another, at `most`. curve: root, where little is to be seen too. */
export type Scale = {
  from: string;
  to: string;
  least: number;
  most: number;
  curve: 'straight' | 'root';
};

/** How much of the second colour a value has, 0 to 1. */
export function shareOf({ least, most, curve }: Scale, value: number): number {
  const share = Math.min(1, Math.max(0, (value - least) / (most - least || 1)));
  return curve === 'root' ? Math.sqrt(share) : share;
}

const STOPS = [0, 0.02, 0.0625, 0.25, 0.5625, 1];

/** The scale as a gradient of the page's style, for a legend. */
export function gradientOf(scale: Scale): string {
  const stops = STOPS.map((s) => {
    const share = shareOf(scale, scale.least + s * (scale.most - scale.least));
    return `color-mix(in srgb, ${scale.to} ${(100 * share).toFixed(0)}%, ${scale.from}) ${(100 * s).toFixed(1)}%`;
  });
  return `linear-gradient(90deg, ${stops.join(', ')})`;
}

/** values: one a triangle, or one a vertex of the mesh. What is missing is as the least. */
export function colouredBy(
  { geometry, data }: Drawable,
  values: Float32Array,
  scale: Scale,
): THREE.BufferGeometry {
  const byVertex = values.length === data.vertices.length / 3 && values.length !== data.triangles.length / 3;
  const [from, to] = [new THREE.Color(scale.from), new THREE.Color(scale.to)];
  const colours = new Float32Array(data.triangles.length * 3);
  const colour = new THREE.Color();
  data.triangles.forEach((vertex, corner) => {
    const value = values[byVertex ? vertex : Math.floor(corner / 3)] ?? scale.least;
    colour
      .copy(from)
      .lerp(to, shareOf(scale, value))
      .toArray(colours, 3 * corner);
  });
  const found = geometry.toNonIndexed();
  found.setAttribute('color', new THREE.BufferAttribute(colours, 3));
  return found;
}
