/** Where copies lie on the bed: matrices and boxes. */
import * as THREE from 'three';
import type { Lying, Printer } from '../api/printing';
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

/** The bed with all that lies on it. */
export function boxOnBed(lies: Lying, printer: Printer): THREE.Box3 {
  const [wide, deep] = printer.bed as [number, number, number];
  const [w, d, h] = lies.size;
  const x = Math.max(wide, w) / 2;
  const y = Math.max(deep, d) / 2;
  // A little closer than the whole bed: what lies on it is what one looks at.
  const near = lies.spots.length > 1 ? 1 : 0.72;
  return new THREE.Box3(new THREE.Vector3(-x * near, -y * near, 0), new THREE.Vector3(x * near, y * near, h));
}
