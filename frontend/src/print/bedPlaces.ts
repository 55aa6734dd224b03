/** Where copies lie on the bed: matrices and boxes. */
import * as THREE from 'three';
import type { Lying } from '../api/printing';
import { matrixOf } from '../viewport/meshes';

/** Carries what lies over the origin to each copy's spot; what finds no room lies in the middle all the same. */
export function spotsOf(lies: Lying): THREE.Matrix4[] {
  const spots = lies.spots.length ? lies.spots : [[0, 0, false] as const];
  return spots.map(([x, y, turned]) => {
    const found = new THREE.Matrix4().makeRotationZ(turned ? Math.PI / 2 : 0);
    return found.setPosition(x, y, 0);
  });
}

export const placingOf = (lies: Lying): THREE.Matrix4 => matrixOf(lies.placing);

/** All that lies on the bed, with some of the bed around it. */
export function boxOnBed(lies: Lying): THREE.Box3 {
  const [w, d, h] = lies.size;
  const found = new THREE.Box3();
  for (const spot of spotsOf(lies))
    found.union(
      new THREE.Box3(new THREE.Vector3(-w / 2, -d / 2, 0), new THREE.Vector3(w / 2, d / 2, h)).applyMatrix4(
        spot,
      ),
    );
  const room = 0.08 * Math.hypot(w, d);
  return found.expandByVector(new THREE.Vector3(room, room, 0));
}
