/** Drawing only one side of a box: of a skin what lies outside, of a patch what lies inside. */
import * as THREE from 'three';

type Corner = [number, number, number];
export type BoxCorners = [Corner, Corner];

/** What of a mesh is drawn. */
export type Clip = { box: THREE.Box3; side: 'inside' | 'outside'; planes: THREE.Plane[] };

export function clipTo(corners: BoxCorners, side: Clip['side']): Clip {
  const [low, high] = corners.map((c) => new THREE.Vector3(...c)) as [THREE.Vector3, THREE.Vector3];
  const axes = [new THREE.Vector3(1, 0, 0), new THREE.Vector3(0, 1, 0), new THREE.Vector3(0, 0, 1)];
  const sign = side === 'inside' ? 1 : -1;
  const planes = axes.flatMap((axis) => [
    new THREE.Plane().setFromNormalAndCoplanarPoint(axis.clone().multiplyScalar(sign), low),
    new THREE.Plane().setFromNormalAndCoplanarPoint(axis.clone().multiplyScalar(-sign), high),
  ]);
  return { box: new THREE.Box3(low, high), side, planes };
}

/** Whether a point is where the clipped mesh is drawn. */
export const drawnAt = (clip: Clip | undefined, point: THREE.Vector3): boolean =>
  !clip || clip.box.containsPoint(point) === (clip.side === 'inside');
