/** Parts of a skin that are seen through: each a geometry of its own, so that they are drawn from the farthest on. */
import * as THREE from 'three';
import type { Known } from '../controls/tree';
import type { Drawable } from './meshes';

/** number: of the part among those of the skin. */
export type Glass = { id: string; number: number; opacity: number; geometry: THREE.BufferGeometry };

/** Which parts are seen through, of those of a skin. */
export const isGlass = (known: Map<string, Known>, id: string): boolean => (known.get(id)?.opacity ?? 1) < 1;

/** Of the parts `ids` whose triangles are to be drawn as glass, sharing the corners of `whole`. */
export function glassOf(
  { data, geometry }: Drawable,
  ids: string[],
  known: Map<string, Known>,
  without: Set<string>,
  whole: THREE.BufferGeometry,
): Glass[] {
  const found: Glass[] = [];
  const index = (geometry.index as THREE.BufferAttribute).array as Uint32Array;
  ids.forEach((id, number) => {
    if (without.has(id) || !isGlass(known, id)) return;
    const corners = index.filter((_, c) => (data.partOf?.[Math.floor(c / 3)] ?? 0) === number);
    if (corners.length === 0) return;
    const part = new THREE.BufferGeometry();
    for (const name of ['position', 'normal', 'color']) part.setAttribute(name, whole.getAttribute(name));
    part.setIndex(new THREE.BufferAttribute(corners, 1));
    part.boundingSphere = around(whole.getAttribute('position'), corners);
    found.push({ id, number, opacity: known.get(id)?.opacity ?? 1, geometry: part });
  });
  return found;
}

/** Around those corners alone: by its middle, three.js tells which of several is farther. */
function around(
  position: THREE.BufferAttribute | THREE.InterleavedBufferAttribute,
  corners: Uint32Array,
): THREE.Sphere {
  const box = new THREE.Box3();
  const point = new THREE.Vector3();
  for (const corner of corners) box.expandByPoint(point.fromBufferAttribute(position, corner));
  return box.getBoundingSphere(new THREE.Sphere());
}
