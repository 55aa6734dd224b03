/** What stands where on the wheel: the boxes that a view is framed to. */
import * as THREE from 'three';
import type { Scene } from '../api/client';

/**
 * The box around the result and the meshes that cannot count in it; without a result around all parts; without any,
 * around an empty spot on the wheel.
 */
export function wholeBox(scene: Scene | null): THREE.Box3 {
  const { bounds, left_out: leftOut } = scene?.soundness ?? {};
  if (bounds) {
    const result = new THREE.Box3(new THREE.Vector3(...bounds[0]), new THREE.Vector3(...bounds[1]));
    const others = leftOut?.map((l) => l.part) ?? [];
    return others.length ? result.union(partsBox(scene, others)) : result;
  }
  const box = partsBox(scene, null);
  return box.isEmpty() ? new THREE.Box3(new THREE.Vector3(-32, -32, 0), new THREE.Vector3(32, 32, 30)) : box;
}

/** The box around some parts, or all. */
export function partsBox(scene: Scene | null, ids: string[] | null): THREE.Box3 {
  const box = new THREE.Box3();
  for (const part of scene?.parts ?? []) {
    if (!part.box || (ids && !ids.includes(part.id))) continue;
    box.expandByPoint(new THREE.Vector3(...part.box[0]));
    box.expandByPoint(new THREE.Vector3(...part.box[1]));
  }
  return box;
}
