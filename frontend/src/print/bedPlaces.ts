/** Where copies lie on the bed: matrices and boxes. */
import * as THREE from 'three';
import type { Lying, Spots } from '../api/printing';
import { matrixOf } from '../viewport/meshes';

const MIDDLE: Spots['spots'] = [[0, 0, false, 0]];

/** How far to the right each further bed stands of the one before, as a share of how wide it is. */
const STRIDE = 1.12;

/** Where the middle of each of some beds is, mm along x. */
export const bedMiddles = (beds: number, wide: number): number[] =>
  Array.from({ length: beds }, (_, bed) => bed * STRIDE * wide);

/** Spots as they are seen with all beds in a row. wide: of a bed, mm. */
export const inARow = <L extends Spots>(lies: L, wide: number): L => ({
  ...lies,
  spots: lies.spots.map(([x, y, turned, bed]) => [x + bed * STRIDE * wide, y, turned, bed]),
});

/** Carries what lies over the origin to each copy's spot. */
const carried = (spots: Spots['spots']): THREE.Matrix4[] =>
  spots.map(([x, y, turned]) => {
    const found = new THREE.Matrix4().makeRotationZ(turned ? Math.PI / 2 : 0);
    return found.setPosition(x, y, 0);
  });

/** The same for the piece itself, which lies in the middle where it finds no room. */
export const spotsOf = (lies: Spots): THREE.Matrix4[] => carried(lies.spots.length ? lies.spots : MIDDLE);

export const placingOf = (lies: Spots): THREE.Matrix4 => matrixOf(lies.placing);

/** Carries a piece's own mesh to each spot. */
export const matricesOf = (lies: Spots, alone: boolean): THREE.Matrix4[] =>
  (alone ? spotsOf(lies) : carried(lies.spots)).map((spot) => spot.multiply(placingOf(lies)));

/** All that lies on the bed, with some of the bed around it. */
export function boxOnBed(lies: Lying): THREE.Box3 {
  const found = new THREE.Box3();
  const add = ([w, d, h]: Spots['size'], spots: THREE.Matrix4[]) => {
    const box = new THREE.Box3(new THREE.Vector3(-w / 2, -d / 2, 0), new THREE.Vector3(w / 2, d / 2, h));
    for (const spot of spots) found.union(box.clone().applyMatrix4(spot));
  };
  add(lies.size, spotsOf(lies));
  for (const { lies: other } of lies.beside) if (other) add(other.size, carried(other.spots));
  const room = 0.08 * Math.hypot(lies.size[0], lies.size[1]);
  return found.expandByVector(new THREE.Vector3(room, room, 0));
}
