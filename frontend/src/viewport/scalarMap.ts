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
  const table = tableOf(values, scale);
  const colours = new Float32Array(data.triangles.length * 3);
  data.triangles.forEach((vertex, corner) => {
    const of = 3 * Math.min(byVertex ? vertex : Math.floor(corner / 3), values.length);
    for (let i = 0; i < 3; i++) colours[3 * corner + i] = table[of + i] as number;
  });
  const found = geometry.toNonIndexed();
  found.setAttribute('color', new THREE.BufferAttribute(colours, 3));
  return found;
}

/** The colour of every value, and last that of a missing one. */
function tableOf(values: Float32Array, scale: Scale): Float32Array {
  const [from, to] = [new THREE.Color(scale.from), new THREE.Color(scale.to)];
  const colour = new THREE.Color();
  const found = new Float32Array(3 * (values.length + 1));
  const put = (value: number, i: number) =>
    colour
      .copy(from)
      .lerp(to, shareOf(scale, value))
      .toArray(found, 3 * i);
  values.forEach(put);
  put(scale.least, values.length);
  return found;
}

/** The corners of a skin, each in the mean colour of the triangles at it: what its coarser triangles run between. */
export function colouredCorners(
  { geometry }: Drawable,
  coloured: THREE.BufferGeometry,
): THREE.BufferGeometry {
  const from = coloured.getAttribute('color').array;
  const index = (geometry.index as THREE.BufferAttribute).array;
  const corners = geometry.getAttribute('position').count;
  const [colours, users] = [new Float32Array(3 * corners), new Uint32Array(corners)];
  index.forEach((corner, c) => {
    users[corner] = (users[corner] as number) + 1;
    for (let i = 0; i < 3; i++)
      colours[3 * corner + i] = (colours[3 * corner + i] as number) + (from[3 * c + i] as number);
  });
  for (let i = 0; i < colours.length; i++)
    colours[i] = (colours[i] as number) / Math.max(1, users[Math.floor(i / 3)] as number);
  const found = new THREE.BufferGeometry();
  for (const name of ['position', 'normal']) found.setAttribute(name, geometry.getAttribute(name));
  found.setAttribute('color', new THREE.BufferAttribute(colours, 3));
  return found;
}
